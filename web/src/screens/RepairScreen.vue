<script setup lang="ts">
import { useDebounceFn } from "@vueuse/core";
import Button from "primevue/button";
import { computed, onMounted, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import {
  api,
  sentence,
  type FeatureKind,
  type FoundAsk,
  type FoundKind,
  type FoundKindView,
  type Repairs,
} from "../api/client";
import SizeField from "../fields/SizeField.vue";
import { askOf, boxAt, FIRST_SIZE, ofOpening, type Box } from "../lib/repair";
import { asInches } from "../lib/site";
import { useJob } from "../stores/job";
import { s } from "../strings";
import FoundPick from "../wall/FoundPick.vue";
import ProposalCard from "../wall/ProposalCard.vue";
import StepPicture from "../wall/StepPicture.vue";
import VerdictMark from "../wall/VerdictMark.vue";

/** Something has happened on the wall: what it is, where, and what can be done about it, each way tried in the rain. */
const job = useJob();
const route = useRoute();
const router = useRouter();
const kinds = shallowRef<FoundKindView[]>([]);
const what = ref<FoundKind | null>(null);
const box = ref<Box | null>(null);
const size = ref<[number, number]>([6, 3]);
const wall = ref(0);
const number = computed(() => {
  const asked = Number(route.query.finding);
  return Number.isInteger(asked) && asked > 0 ? asked : null;
});
/** Walls are shown one at a time where they are long. */
const LONG = 480;
const walls = computed(() => job.view?.elevation.key ?? []);
const along = computed<number[] | null>(() => {
  const e = job.view?.elevation;
  if (!e || e.width <= LONG || walls.value.length < 2) return null;
  return walls.value[wall.value]?.along ?? null;
});
onMounted(async () => {
  try {
    kinds.value = (await api.GET("/api/found-kinds")).data ?? [];
    const all = (await api.GET("/api/features")).data ?? [];
    things.value = all.filter((t) => t.feature === "penetration");
  } catch {
    wrong.value = s.repair.silent;
  }
});
/** What comes through a late hole. */
const things = shallowRef<FeatureKind[]>([]);
const thing = ref("pipe");
/** The window or door that is meant, where one is. */
const opening = ref<string | null>(null);
function choose(kind: FoundKind) {
  if (ofOpening(kind) !== ofOpening(what.value)) [box.value, opening.value] = [null, null];
  what.value = kind;
  if (ofOpening(kind)) return;
  size.value = FIRST_SIZE[kind];
  const e = job.view?.elevation;
  if (box.value && e) box.value = boxAt(e, middle(box.value), size.value);
}
const middle = ([x, y, w, h]: Box): [number, number] => [x + w / 2, y + h / 2];

const answer = shallowRef<Repairs | null>(null);
const asking = ref(false);
const wrong = ref("");
const taken = ref("");
/** The id of what was found before and is mended anew. */
const again = ref<string | null>(null);
let asked = 0;
function begin() {
  [asking.value, wrong.value, answer.value, taken.value] = [true, "", null, ""];
  return ++asked;
}
async function ask(found: FoundAsk) {
  const id = job.state?.id;
  if (id === undefined) return;
  const mine = begin();
  try {
    const { data, error } = await api.POST("/api/jobs/{id}/repairs", { params: { path: { id } }, body: found });
    if (mine !== asked) return;
    if (data) answer.value = data;
    else wrong.value = sentence(error, s.repair.silent);
  } catch {
    if (mine === asked) wrong.value = s.repair.silent;
  }
  if (mine === asked) asking.value = false;
}
function askSeen() {
  const e = job.view?.elevation;
  if (!e || !what.value || !box.value) return;
  // Nothing is to be done as long as the opening is where it was.
  const was = e.openings.find((o) => o.id === opening.value)?.rect;
  if (what.value === "moved" && box.value.every((n, i) => Math.abs(n - (was?.[i] ?? 0)) < 1 / 32)) {
    asking.value = false;
    return;
  }
  const more = { id: again.value ?? undefined, opening: opening.value ?? undefined, thing: thing.value };
  void ask(askOf(e, what.value, box.value, more));
}
function chosen(id: string) {
  const rect = job.view?.elevation.openings.find((o) => o.id === id)?.rect;
  opening.value = id;
  size.value = [rect?.[2] ?? 1, rect?.[3] ?? 1];
}
const soon = useDebounceFn(askSeen, 350);
/** An answer is of one place: once that is another, it can no longer be taken. */
watch([what, box, thing], () => {
  if (!what.value || !box.value) return;
  begin();
  void soon();
});
const step = computed(() => (typeof route.query.step === "string" ? route.query.step : null));
watch(
  [() => job.state?.id, number, step],
  ([id, n, failed]) => {
    if (id === undefined) return;
    if (n !== null) void ask({ by: "finding", number: n });
    else if (failed !== null) void ask({ by: "step", step: failed });
  },
  { immediate: true },
);
const texts = computed(() => {
  const e = job.view?.elevation;
  if (!e || !box.value) return null;
  const [x, y, w, h] = box.value;
  return { left: x, bottom: e.plate - y - h, width: w, height: h };
});
/** A size that was typed in inches, such as 12 1/2. */
function setSize(field: "left" | "bottom" | "width" | "height", text: string) {
  const e = job.view?.elevation;
  const match = /^\s*([-−]?\d+(?:\.\d+)?)?(?:\s*(\d+)\/(\d+))?\s*(?:in|")?\s*$/.exec(text);
  if (!e || !texts.value || !match) return;
  const whole = Number((match[1] ?? "0").replace("−", "-"));
  const part = match[2] ? Number(match[2]) / Number(match[3]) : 0;
  const value = whole < 0 || match[1]?.startsWith("−") ? whole - part : whole + part;
  if (!Number.isFinite(value)) return;
  const now = { ...texts.value, [field]: value };
  size.value = [now.width, now.height];
  box.value = boxAt(e, [now.left + now.width / 2, e.plate - now.bottom - now.height / 2], size.value);
}
const drop = computed(() => answer.value?.drop ?? []);
const dropLine = computed(() => drop.value.map((p) => `${p.x},${p.y}`).join(" "));
const unit = computed(() => Math.max(answer.value?.picture?.frame[2] ?? 1, answer.value?.picture?.frame[3] ?? 1) / 100);

async function take(index: number) {
  const p = answer.value?.proposals[index];
  if (!p) return;
  if (await job.change(p.edit, p.title)) {
    taken.value = p.title;
    answer.value = null;
    again.value = null;
  }
}
async function toPlan() {
  const step = job.view?.steps.findLast((x) => /^D\d+\//.test(x.id));
  await router.push({ name: "wall", params: { id: route.params.id }, query: step ? { step: step.id } : {} });
}
const known = computed(() => job.state?.job.found ?? []);
const nameOf = (kind: FoundKind) => kinds.value.find((k) => k.id === kind)?.name ?? s.repair.title;
function redo(id: string) {
  const f = known.value.find((x) => x.id === id);
  if (!f) return;
  again.value = id;
  void ask({ by: "sight", what: f.what, place: f.place, after: f.after ?? null, id });
}
</script>

<template>
  <main class="repair" data-test="repair">
    <section class="ask">
      <h2>{{ s.repair.title }}</h2>
      <template v-if="number === null && step === null">
        <p id="found-what" class="lead">{{ s.repair.what }}</p>
        <div class="kinds" role="group" aria-labelledby="found-what">
          <button
            v-for="k in kinds"
            :key="k.id"
            :class="{ on: what === k.id }"
            :aria-pressed="what === k.id"
            :title="k.says"
            :data-found-kind="k.id"
            @click="choose(k.id)"
          >
            {{ k.name }}
          </button>
        </div>
        <label v-if="what === 'late-hole'" class="wall"
          >{{ s.repair.through }}
          <select v-model="thing" data-test="found-thing">
            <option v-for="t in things" :key="t.id" :value="t.id">{{ t.name }}</option>
          </select>
        </label>
        <p class="lead">{{ ofOpening(what) ? s.repair.which : s.repair.where }}</p>
        <label v-if="along" class="wall"
          >{{ s.repair.wall }}
          <select v-model="wall" data-test="found-wall">
            <option v-for="(w, i) in walls" :key="i" :value="i">{{ w.name }}</option>
          </select>
        </label>
        <FoundPick
          v-if="job.view"
          v-model="box"
          :elevation="job.view.elevation"
          :along="along"
          :size="size"
          :whole="ofOpening(what)"
          @opening="chosen"
        />
        <p v-if="what === 'moved' && box" class="lead">{{ s.repair.now(opening ?? "") }}</p>
        <div v-if="texts && what !== 'unit'" class="sizes">
          <SizeField
            v-for="f in ['left', 'bottom', 'width', 'height'] as const"
            :key="f"
            :label="s.repair.sizes[f]"
            :value="asInches(`${texts[f]}`)"
            :test="`found-${f}`"
            @set="(t) => setSize(f, t)"
          />
        </div>
      </template>
      <section v-if="known.length" class="known">
        <h3>{{ s.repair.known }}</h3>
        <ul>
          <li v-for="f in known" :key="f.id" :data-found="f.id">
            <span
              ><b>{{ f.id }}</b> {{ nameOf(f.what) }}, {{ f.repair?.length ? s.repair.mended : s.repair.open_ }}</span
            >
            <Button
              v-if="job.mayChange && f.what !== 'moved'"
              size="small"
              text
              :label="s.repair.redo"
              @click="redo(f.id)"
            />
            <Button
              v-if="job.mayChange"
              size="small"
              text
              severity="secondary"
              :label="s.repair.drop"
              :data-remove-found="f.id"
              @click="job.change({ edit: 'remove_found', id: f.id }, s.repair.drop)"
            />
          </li>
        </ul>
      </section>
    </section>
    <section class="answer" aria-live="polite">
      <p v-if="asking" role="status" class="asking">{{ s.repair.asking }}</p>
      <p v-if="wrong" role="alert" class="wrong" data-test="repair-wrong">{{ wrong }}</p>
      <div v-if="taken" class="taken" role="status" data-test="repair-taken">
        <p>{{ s.repair.taken(taken) }}</p>
        <Button :label="s.repair.toPlan" data-test="repair-plan" @click="toPlan" />
      </div>
      <template v-if="answer">
        <article class="before" data-test="repair-before">
          <div class="shown">
            <StepPicture v-if="answer.picture" :picture="answer.picture" class="small" />
            <svg
              v-if="answer.picture && drop.length"
              class="water"
              :viewBox="answer.picture.frame.join(' ')"
              aria-hidden="true"
            >
              <polyline :points="dropLine" class="halo" :stroke-width="unit * 2.4" />
              <polyline :points="dropLine" class="line" :stroke-width="unit * 1.1" />
              <circle :cx="drop.at(-1)?.x" :cy="drop.at(-1)?.y" :r="unit * 2" class="end" />
            </svg>
          </div>
          <div>
            <h3>{{ s.repair.before }}: {{ answer.name.toLowerCase() }}</h3>
            <p>
              <VerdictMark :state="answer.before.state" /> <b>{{ answer.before.says }}</b>
            </p>
            <p>{{ answer.before.worst }}</p>
            <p class="quiet">{{ s.repair.whole(answer.whole.says) }}</p>
          </div>
        </article>
        <p v-if="answer.none" class="wrong" role="alert">{{ answer.none }}</p>
        <h3 v-else>{{ s.repair.proposals(answer.proposals.length) }}</h3>
        <ol class="list">
          <ProposalCard
            v-for="(p, i) in answer.proposals"
            :key="p.title"
            :proposal="p"
            :number="i + 1"
            :busy="job.sending > 0 || !job.mayChange"
            @take="take(i)"
          />
        </ol>
        <details v-if="answer.not_so.length" class="not-so">
          <summary>{{ s.repair.notSo(answer.not_so.length) }}</summary>
          <p v-for="n in answer.not_so" :key="n.title">
            <b>{{ n.title }}.</b> {{ n.why }}
          </p>
        </details>
      </template>
    </section>
  </main>
</template>

<style scoped>
.repair {
  display: grid;
  grid-template-columns: minmax(300px, 400px) minmax(0, 1fr);
  gap: 18px;
  align-items: start;
  padding: 14px 18px 40px;
}
h2 {
  margin: 0 0 4px;
}
h3 {
  margin: 6px 0;
  font-size: 1.1rem;
}
.lead {
  margin: 8px 0 6px;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.kinds button {
  min-height: 48px;
  padding: 0 14px;
  font: inherit;
  font-weight: 650;
  color: var(--ink);
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
.kinds .on {
  color: var(--shell-ink);
  background: var(--shell);
}
.wall select {
  min-height: 44px;
  margin: 0 0 6px 8px;
  font: inherit;
}
.sizes {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 16px;
  margin-top: 6px;
}
.known ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.known li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  justify-content: space-between;
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}
.answer {
  min-width: 0;
}
.before {
  display: grid;
  grid-template-columns: minmax(180px, 300px) 1fr;
  gap: 14px;
  padding: 12px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 5px solid var(--leak);
}
.before p {
  margin: 4px 0;
}
.shown {
  position: relative;
  height: 200px;
}
.small,
.water {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.line {
  fill: none;
  stroke: var(--water);
}
.halo {
  fill: none;
  stroke: var(--sheet);
  stroke-opacity: 0.8;
}
.end {
  fill: var(--water);
}
.quiet {
  color: var(--ink-soft);
}
.list {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
  gap: 12px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.wrong {
  padding: 10px 12px;
  font-weight: 600;
  background: var(--leak-soft);
  border-left: 5px solid var(--leak);
}
.taken {
  padding: 10px 14px;
  background: var(--good-soft);
  border-left: 5px solid var(--good);
}
.asking {
  padding: 10px 0;
  font-weight: 600;
}
.not-so {
  margin-top: 12px;
}
.not-so summary {
  min-height: 44px;
  line-height: 44px;
  cursor: pointer;
}
@media (max-width: 860px) {
  .repair {
    grid-template-columns: minmax(0, 1fr);
    padding: 10px 12px 80px;
  }
  .before {
    grid-template-columns: 1fr;
  }
  .sizes {
    grid-template-columns: 1fr;
  }
}
</style>
