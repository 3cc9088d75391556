<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, shallowRef, watch } from "vue";
import {
  api,
  sentence,
  type AnswerSheet,
  type LaidView,
  type PracticeAnswer,
  type SceneOf,
  type SceneView,
} from "../api/client";
import { composed, laidNothing, lay, takeBack, type Laid } from "../lib/practice";
import { s } from "../strings";
import StepPicture from "../wall/StepPicture.vue";
import HintButton from "./HintButton.vue";
import PracticeWall from "./PracticeWall.vue";

/** Pieces are picked up and laid one by one; what sticks is laid once. */
const props = defineProps<{
  scene: SceneView;
  of: SceneOf;
  busy: boolean;
  /** What every answer gives, for where nobody can be asked. */
  sheet: () => Promise<AnswerSheet | null>;
}>();
const emit = defineEmits<{ answer: [answer: PracticeAnswer] }>();
const laid = ref<Laid>(laidNothing());
const looked = shallowRef<LaidView | null>(null);
const wrong = ref("");
let asked = 0;
async function look() {
  const mine = ++asked;
  try {
    const { data, error } = await api.POST("/api/practice/laid", { body: { of: props.of, steps: laid.value.steps } });
    if (mine !== asked) return;
    if (data) looked.value = data;
    wrong.value = data ? "" : sentence(error, s.repair.silent);
  } catch {
    // Without a signal pieces lie in the order in which they were laid; what could not be laid is told by the rain.
    if (mine !== asked) return;
    const last = laid.value.steps.at(-1);
    const sheet = await props.sheet();
    if (mine !== asked) return;
    const sticks = last !== undefined && sheet?.drill === "order" && sheet.sticks.includes(last);
    looked.value = { elevation: composed(props.scene, laid.value.steps), blocked: [], sticks };
  }
}
watch(laid, () => void look());
const rest = computed(() => props.scene.lay.filter((l) => !laid.value.steps.includes(l.step)));
const title = (step: string) => props.scene.lay.find((l) => l.step === step)?.title ?? step;
const over = ref(false);
function dropped(e: DragEvent) {
  over.value = false;
  const step = e.dataTransfer?.getData("text/plain");
  if (step && rest.value.some((l) => l.step === step)) laid.value = lay(laid.value, step);
}
</script>

<template>
  <div class="order">
    <section>
      <div
        class="drop-here"
        :class="{ over }"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="dropped"
      >
        <PracticeWall :elevation="looked?.elevation ?? scene.elevation" />
      </div>
      <p v-if="wrong" role="alert">{{ wrong }}</p>
      <ol class="laid" :aria-label="s.practice.laidSoFar">
        <li v-for="(step, i) in laid.steps" :key="step">{{ i + 1 }}. {{ title(step) }}</li>
      </ol>
      <ul v-if="looked?.blocked.length" class="blocked" role="status">
        <li v-for="(b, i) in looked.blocked" :key="i">{{ s.practice.cannot(b) }}</li>
      </ul>
      <div class="acts">
        <Button
          severity="secondary"
          :label="looked?.sticks ? s.practice.tearOff : s.practice.takeBack"
          :disabled="laid.steps.length === 0 || busy"
          data-test="take-back"
          @click="laid = takeBack(laid, looked?.sticks ?? false)"
        />
        <Button
          :label="s.practice.rain"
          :disabled="rest.length > 0 || busy"
          data-test="let-it-rain"
          @click="emit('answer', { drill: 'order', ...laid })"
        />
      </div>
    </section>
    <section>
      <h3>{{ rest.length ? s.practice.pick(rest.length) : s.practice.allLaid }}</h3>
      <HintButton
        :model-value="laid.hints"
        :of="of"
        :answer="{ drill: 'order', ...laid }"
        :sheet="sheet"
        :busy="busy || rest.length === 0"
        @update:model-value="(n: number) => (laid = { ...laid, hints: n })"
      />
      <ul class="pieces">
        <li v-for="l in rest" :key="l.step">
          <button
            draggable="true"
            :data-lay="l.step"
            :disabled="busy"
            @dragstart="(e) => e.dataTransfer?.setData('text/plain', l.step)"
            @click="laid = lay(laid, l.step)"
          >
            <StepPicture v-if="l.picture" :picture="l.picture" class="small" />
            <b>{{ l.title }}</b>
          </button>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.order {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(240px, 2fr);
  gap: 16px;
}
.drop-here.over {
  outline: 3px dashed var(--focus);
}
.laid {
  margin: 8px 0;
  padding: 0;
  list-style: none;
}
.blocked {
  margin: 0 0 8px;
  padding: 6px 10px 6px 26px;
  background: var(--glue-soft);
  border-left: 5px solid var(--glue);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.acts :deep(button) {
  min-height: 48px;
}
.pieces {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.pieces button {
  display: flex;
  flex-direction: column;
  gap: 6px;
  width: 100%;
  height: 100%;
  padding: 8px;
  font: inherit;
  color: var(--ink);
  text-align: left;
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
  cursor: grab;
}
.small {
  height: 110px;
}
h3 {
  margin: 0 0 8px;
}
@media (max-width: 760px) {
  .order {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
