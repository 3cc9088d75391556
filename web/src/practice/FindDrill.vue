<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";
import {
  api,
  sentence,
  type AnswerSheet,
  type Mendable,
  type PracticeAnswer,
  type SceneOf,
  type SceneView,
} from "../api/client";
import { piecesOf } from "../lib/practice";
import { mendsBySheet } from "../lib/sheet";
import { s } from "../strings";
import BuiltSection from "../wall/BuiltSection.vue";
import ExplodedDrawing from "../wall/ExplodedDrawing.vue";
import HintButton from "./HintButton.vue";
import PracticeWall from "./PracticeWall.vue";

/** A finished wall with something wrong: what is touched is marked, and named. */
const props = defineProps<{
  scene: SceneView;
  of: SceneOf;
  busy: boolean;
  /** What every answer gives, for where nobody can be asked. */
  sheet: () => Promise<AnswerSheet | null>;
}>();
const emit = defineEmits<{ answer: [answer: PracticeAnswer] }>();
const marks = ref<{ piece: string; fault: string }[]>([]);
const hints = ref(0);
const pieces = computed(() => piecesOf(props.scene));
const marked = computed(() => marks.value.map((m) => m.piece));
/** What is looked at: the wall, its sections, or what it is built of drawn apart. */
const views = ["wall", "section", "apart"] as const;
const view = ref<(typeof views)[number]>("wall");
const cut = ref(0);
const nameOf = (id: string) => pieces.value.find((p) => p.id === id)?.name ?? id;
/** What can be done about each mistake that was found: from then on the marks stay. */
const mendable = ref<Mendable[] | null>(null);
const mends = ref<(number | null)[]>([]);
const wrong = ref("");
const asking = ref(false);
async function toMend() {
  asking.value = true;
  wrong.value = "";
  let all: Mendable[] | null = null;
  try {
    const { data, error } = await api.POST("/api/practice/mends", { body: { of: props.of, marks: marks.value } });
    all = data ?? null;
    if (!data) wrong.value = sentence(error, s.repair.silent);
  } catch {
    const sheet = await props.sheet();
    all = sheet ? mendsBySheet(sheet, marks.value) : null;
    if (!all) wrong.value = s.repair.silent;
  }
  asking.value = false;
  if (!all) return;
  mendable.value = all;
  mends.value = all.map((m) => (m.titles.length ? null : 0));
  if (all.every((m) => m.titles.length === 0)) give();
}
function give() {
  const chosen = mends.value.map((m) => m ?? 0);
  emit("answer", { drill: "find", marks: marks.value, hints: hints.value, mends: chosen });
}
/** Where nothing lies nothing can be marked. */
const bare = ref(false);
/** How a marked piece lies, in words. */
const lies = (id: string) => {
  const l = props.scene.lies.find((x) => x.piece === id);
  return l ? s.practice.lies(l) : [];
};
function mark(piece: string) {
  bare.value = false;
  if (!piece || mendable.value) return;
  const there = marks.value.findIndex((m) => m.piece === piece);
  if (there >= 0) marks.value.splice(there, 1);
  else marks.value.push({ piece, fault: "" });
}
function picked(e: Event) {
  const select = e.target as HTMLSelectElement;
  mark(select.value);
  select.value = "";
}
</script>

<template>
  <div class="find">
    <div class="looked">
      <div v-if="scene.sections.length" class="views" role="group" :aria-label="s.practice.lookAt">
        <button
          v-for="v in views"
          :key="v"
          type="button"
          :class="{ on: v === view }"
          :aria-pressed="v === view"
          :data-view="v"
          @click="view = v"
        >
          {{ s.practice.views[v] }}
        </button>
        <select v-if="view === 'section'" v-model="cut" :aria-label="s.practice.whichCut" data-test="which-cut">
          <option v-for="(x, i) in scene.sections" :key="i" :value="i">
            {{ s.section[x.kind] }} · {{ x.opening }}
          </option>
        </select>
        <select v-if="view === 'apart' && scene.apart.length > 1" v-model="cut" :aria-label="s.practice.whichCut">
          <option v-for="(x, i) in scene.apart" :key="i" :value="i">{{ x.opening }}</option>
        </select>
      </div>
      <PracticeWall
        v-if="view === 'wall'"
        :elevation="scene.elevation"
        touch
        :marked="marked"
        @piece="(shape) => mark(shape.piece)"
        @bare="bare = true"
      />
      <div v-else-if="view === 'section' && scene.sections[cut]" class="drawing">
        <BuiltSection :section="scene.sections[cut]!" :marked="marked" @piece="mark" />
      </div>
      <div v-else class="drawing">
        <ExplodedDrawing :exploded="scene.apart[cut] ?? scene.apart[0] ?? null" :marked="marked" @piece="mark" />
      </div>
    </div>
    <section>
      <h3>{{ s.practice.toFind(scene.to_find) }}</h3>
      <p>{{ s.practice.findHelp }}</p>
      <p v-if="scene.sections.length">{{ s.practice.alsoLook }}</p>
      <p role="status" data-test="bare">{{ bare ? s.practice.bare : "" }}</p>
      <HintButton
        v-if="!mendable"
        v-model="hints"
        :of="of"
        :answer="{ drill: 'find', marks, hints }"
        :sheet="sheet"
        :busy="busy"
      />
      <label v-if="!mendable"
        >{{ s.practice.orChoose }}
        <select data-test="mark-piece" @change="picked">
          <option value=""></option>
          <option v-for="p in pieces" :key="p.id" :value="p.id">{{ p.name }}</option>
        </select>
      </label>
      <ul class="marks">
        <li v-for="m in marks" :key="m.piece" data-test="mark">
          <b>{{ nameOf(m.piece) }}</b>
          <ul class="lies" :aria-label="s.practice.liesOf(nameOf(m.piece))">
            <li v-for="line in lies(m.piece)" :key="line">{{ line }}</li>
          </ul>
          <select v-model="m.fault" :aria-label="s.practice.whichFault(nameOf(m.piece))">
            <option value="">{{ s.practice.unnamed }}</option>
            <option v-for="f in scene.names" :key="f.id" :value="f.id">{{ f.name }}</option>
          </select>
          <Button
            v-if="!mendable"
            size="small"
            text
            severity="secondary"
            :label="s.practice.unmark"
            :aria-label="`${s.practice.unmark}: ${nameOf(m.piece)}`"
            @click="mark(m.piece)"
          />
        </li>
      </ul>
      <template v-if="mendable">
        <article v-for="(m, i) in mendable" v-show="m.titles.length" :key="m.piece" class="mend">
          <h3>{{ s.practice.whatMends(nameOf(m.piece)) }}</h3>
          <div class="choices" role="group" :aria-label="s.practice.whatMends(nameOf(m.piece))">
            <button
              v-for="(title, n) in m.titles"
              :key="n"
              type="button"
              :class="{ on: mends[i] === n }"
              :aria-pressed="mends[i] === n"
              :data-find-mend="`${i}-${n}`"
              @click="mends[i] = n"
            >
              {{ title }}
            </button>
          </div>
        </article>
        <Button
          :label="s.practice.mendIt"
          :disabled="mends.includes(null) || busy"
          data-test="found-mended"
          @click="give"
        />
      </template>
      <Button
        v-else
        :label="s.practice.thatIsIt"
        :disabled="marks.length === 0 || busy || asking"
        data-test="found-all"
        @click="toMend"
      />
      <p v-if="wrong" role="alert">{{ wrong }}</p>
    </section>
  </div>
</template>

<style scoped>
.find {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(240px, 2fr);
  gap: 16px;
}
.mend {
  margin-bottom: 12px;
}
.choices {
  display: grid;
  gap: 6px;
  margin-top: 6px;
}
.choices button {
  min-height: 48px;
  padding: 6px 12px;
  font: inherit;
  text-align: left;
  color: var(--ink);
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
.choices .on {
  color: var(--shell-ink);
  background: var(--shell);
}
.views {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 8px;
}
.views button {
  min-height: 44px;
  padding: 0 14px;
  font: inherit;
  font-weight: 650;
  color: var(--ink);
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
.views .on {
  color: var(--shell-ink);
  background: var(--shell);
}
.views select {
  width: auto;
}
.drawing {
  display: flex;
  flex-direction: column;
  height: 62vh;
  background: var(--sheet);
  border: 1px solid var(--line);
}
h3 {
  margin: 0;
}
select {
  width: 100%;
  min-height: 44px;
  font: inherit;
}
.marks {
  margin: 10px 0;
  padding: 0;
  list-style: none;
}
.lies {
  margin: 0 0 6px;
  padding-left: 16px;
  font-size: 0.9rem;
}
.marks > li {
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
section > :deep(button) {
  min-height: 48px;
}
@media (max-width: 760px) {
  .find {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
