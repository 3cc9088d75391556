<script setup lang="ts">
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import { computed, nextTick, ref, watch } from "vue";
import type { StepView } from "../api/client";
import { stepsLeft } from "../lib/filter";
import { folded, type Fold, type FoldBy } from "../lib/fold";
import { landsBefore } from "../lib/order";
import { useBuilding } from "../stores/building";
import { useJob } from "../stores/job";
import { dateOf } from "../lib/calendar";
import { s } from "../strings";
import FilterBar from "./FilterBar.vue";
import VerdictMark from "./VerdictMark.vue";

const job = useJob();
const all = computed(() => job.shown?.steps ?? []);
const steps = computed(() =>
  job.isFiltered
    ? stepsLeft(all.value, job.shown?.elevation.shapes ?? [], job.shown?.findings ?? [], job.filter)
    : all.value,
);
/** So many steps can be read as one list; more are folded by place. */
const FEW = 100;
const wanted = ref<FoldBy | null>(null);
const by = computed<FoldBy>(() => wanted.value ?? (all.value.length > FEW ? "place" : "order"));
const ways = (["order", "place", "trade", "day"] as const).map((value) => ({ value, label: s.fold.as[value] }));
const building = useBuilding();
watch(by, (how) => (building.wantsDays ||= how === "day"), { immediate: true });
const folds = computed(() =>
  folded(steps.value, by.value, {
    walls: (job.shown?.elevation.key ?? []).map((w) => w.name),
    openings: job.shown?.elevation.openings ?? [],
    names: building.names,
    findings: job.view?.findings ?? [],
    done: job.view?.done ?? 0,
    finished: job.view?.verdict.finished ?? false,
    days: building.days,
    words: {
      wallItself: s.fold.wallItself,
      trades: s.filter.trades,
      day: (on) => dateOf(on, 0),
      noDay: s.fold.noDay,
    },
  }),
);
/** Folds that somebody opened or shut; the others are open where few steps are in all, or the work stands there. */
const touched = ref<Record<string, boolean>>({});
watch(by, () => (touched.value = {}));
const isOpen = (f: Fold) =>
  touched.value[f.key] ?? (all.value.length <= FEW || f.steps.length === 0 || f.steps.some((x) => x.id === here.value));
/** Folds that are shown, and whether their steps are. Places of a wall that is shut are not shown. */
const shownFolds = computed(() => {
  let wallOpen = true;
  return folds.value.flatMap((f) => {
    const open = isOpen(f);
    if (f.level === 1) return wallOpen ? [{ ...f, open }] : [];
    wallOpen = f.steps.length > 0 || open;
    return [{ ...f, open }];
  });
});
const list = ref<HTMLElement | null>(null);
/** Where a dragged step would land: index of the step it would stand before. */
const landing = ref<number | null>(null);
const carried = ref<string | null>(null);

/** The step the work stands in: the one whose actions were done last. */
const current = computed(() => {
  const done = job.view?.done ?? 0;
  return steps.value.findLast((x) => !x.removed && x.starts < done)?.id ?? null;
});
/** The step that is looked at. */
const here = computed(() => job.chosen ?? current.value);
watch(here, async (id) => {
  await nextTick();
  list.value?.querySelector(`[data-step="${id}"]`)?.scrollIntoView({ block: "nearest" });
});

function choose(step: StepView) {
  job.chosen = step.id;
  if (!step.removed) void job.goTo(step.ends);
}
/** With several openings each step says at which. */
const many = computed(() => (job.shown?.elevation.openings.length ?? 0) > 1);
const order = computed(() => job.shown?.order ?? null);
const night = (step: StepView) => job.nights?.find((n) => n.step === step.id);
const isDone = (step: StepView) => !step.removed && step.ends <= (job.view?.done ?? 0);

function moveBy(step: StepView, by: -1 | 1) {
  const i = steps.value.findIndex((x) => x.id === step.id);
  if ((by < 0 && i === 0) || (by > 0 && i === steps.value.length - 1)) return;
  const before = landsBefore(all.value, steps.value, step.id, by < 0 ? i - 1 : i + 2);
  if (before === undefined) return;
  job.chosen = step.id;
  void job.change({ edit: "move_step", step: step.id, before }, step.title).then(focusChosen);
}
async function focusChosen() {
  await nextTick();
  list.value?.querySelector<HTMLElement>(`[data-step="${job.chosen}"] .name`)?.focus();
}
function toggle(step: { id: string; removed: boolean }, title: string) {
  void job.change({ edit: step.removed ? "restore_step" : "remove_step", step: step.id }, title);
}
function keys(e: KeyboardEvent, step: StepView) {
  if (job.mayChange && e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown"))
    moveBy(step, e.key === "ArrowUp" ? -1 : 1);
  else if (job.mayChange && e.key === "Delete") toggle(step, step.title);
  else if (!e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
    const i = steps.value.findIndex((x) => x.id === step.id) + (e.key === "ArrowUp" ? -1 : 1);
    list.value?.querySelectorAll<HTMLElement>(".name")[i]?.focus();
  } else return;
  e.preventDefault();
  e.stopPropagation();
}

function carry(e: PointerEvent, step: StepView) {
  carried.value = step.id;
  (e.currentTarget as Element).setPointerCapture(e.pointerId);
}
function over(e: PointerEvent) {
  if (!carried.value) return;
  const rows = [...(list.value?.querySelectorAll<HTMLElement>("[data-step]") ?? [])];
  const hit = rows.findIndex((r) => e.clientY < r.getBoundingClientRect().y + r.getBoundingClientRect().height / 2);
  landing.value = hit < 0 ? rows.length : hit;
}
function land() {
  const step = carried.value;
  const at = landing.value;
  carried.value = landing.value = null;
  if (step === null || at === null) return;
  const before = landsBefore(all.value, steps.value, step, at);
  if (before === undefined) return;
  job.chosen = step;
  void job.change({ edit: "move_step", step, before }, s.rail.title);
}
</script>

<template>
  <section class="rail" :aria-label="s.rail.title">
    <header>
      <h2>{{ s.rail.title }}</h2>
      <Button
        v-if="job.mayChange && job.shown?.reordered"
        size="small"
        text
        :label="s.rail.restore"
        :title="s.rail.restoreHelp"
        data-test="restore-order"
        @click="job.change({ edit: 'restore_order' }, s.rail.restore)"
      />
    </header>
    <FilterBar />
    <SelectButton
      class="by"
      :model-value="by"
      :options="ways"
      option-label="label"
      option-value="value"
      :allow-empty="false"
      size="small"
      :aria-label="s.fold.by"
      data-test="fold-by"
      @update:model-value="(w: FoldBy) => (wanted = w)"
    />
    <div v-if="order && !order.works" class="wrong" data-test="order-wrong">
      <p>{{ s.order.moves }}: {{ order.moves.join("; ") }}.</p>
      <Button
        v-if="job.mayChange"
        size="small"
        :label="s.order.right"
        data-test="put-right"
        @click="job.change({ edit: 'put_right' }, s.order.right)"
      />
    </div>
    <div ref="list" class="folds">
      <section
        v-for="f in shownFolds"
        :key="f.key"
        v-memo="f.open && f.steps.length > 0 ? [{}] : [f.title, f.state, f.done, f.steps.length, f.open, by]"
        :class="[`level-${f.level}`, { steps: f.open && f.steps.length > 0 }]"
        :data-fold="f.key"
      >
        <button v-if="by !== 'order'" class="fold" :aria-expanded="f.open" @click="touched[f.key] = !f.open">
          <VerdictMark v-if="by === 'place'" :state="f.state" />
          <span class="title">{{ f.title }}</span>
          <span v-if="f.steps.length" class="count">{{ s.fold.count(f.done, f.steps.length) }}</span>
        </button>
        <ol v-if="f.open && f.steps.length">
          <li
            v-for="step in f.steps"
            :key="step.id"
            :data-step="step.id"
            :class="{
              done: isDone(step),
              current: step.id === current,
              chosen: step.id === job.chosen,
              removed: step.removed,
              'lands-before': landing !== null && steps[landing]?.id === step.id,
              carried: carried === step.id,
            }"
          >
            <span
              v-if="job.mayChange"
              class="drag"
              :title="s.rail.drag"
              data-test="drag"
              @pointerdown="carry($event, step)"
              @pointermove="over"
              @pointerup="land"
              @pointercancel="carried = landing = null"
            >
              <svg viewBox="0 0 8 14" aria-hidden="true">
                <path d="M2 2h.01M6 2h.01M2 7h.01M6 7h.01M2 12h.01M6 12h.01" />
              </svg>
            </span>
            <button
              class="name"
              :aria-current="step.id === current ? 'step' : undefined"
              @click="choose(step)"
              @keydown="keys($event, step)"
            >
              <span class="tick" aria-hidden="true">{{ step.removed ? "–" : isDone(step) ? "✓" : "" }}</span>
              <span class="title"
                >{{ step.title }}<small v-if="many && step.opening">{{ step.opening }}</small></span
              >
              <span v-if="step.removed" class="out">{{ s.rail.out }}</span>
              <span
                v-else-if="night(step)"
                :class="['night', night(step)?.state]"
                :title="s.night.state[night(step)!.state]"
                data-test="night"
                >{{ s.night.mark[night(step)!.state] }}</span
              >
              <span v-else class="letters">{{ [...new Set(step.cuts.map((c) => c.letter))].join(" ") }}</span>
            </button>
            <span v-if="job.mayChange && step.id === here" class="tools">
              <button :aria-label="`${s.rail.up}: ${step.title}`" :title="s.rail.up" @click="moveBy(step, -1)">
                ↑
              </button>
              <button :aria-label="`${s.rail.down}: ${step.title}`" :title="s.rail.down" @click="moveBy(step, 1)">
                ↓
              </button>
              <button
                :aria-label="`${step.removed ? s.rail.putBack : s.rail.leaveOut}: ${step.title}`"
                :title="step.removed ? s.rail.putBack : s.rail.leaveOut"
                data-test="toggle-step"
                @click="toggle(step, step.title)"
              >
                {{ step.removed ? "+" : "×" }}
              </button>
            </span>
          </li>
        </ol>
      </section>
    </div>
  </section>
</template>

<style scoped>
.rail {
  display: flex;
  flex-direction: column;
  min-height: 0;
  height: 100%;
}
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  min-height: 40px;
  padding: 4px 12px;
}
h2 {
  font-size: 0.95rem;
}
.folds {
  flex: 1;
  min-height: 0;
  padding-bottom: 8px;
  overflow-y: scroll;
}
/* What is out of sight is neither laid out nor painted. */
.folds > section {
  content-visibility: auto;
  contain-intrinsic-size: auto 33px;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
.by {
  display: flex;
  padding: 4px 10px;
}
.by :deep(button) {
  flex: 1;
  padding-inline: 2px;
}
.steps > .fold {
  position: sticky;
  top: 0;
  z-index: 1;
}
.fold {
  display: flex;
  gap: 6px;
  align-items: center;
  width: 100%;
  min-height: 32px;
  padding: 4px 10px;
  font: inherit;
  font-weight: 650;
  color: inherit;
  text-align: left;
  background: var(--sheet);
  border: 0;
  border-bottom: 1px solid var(--line);
  cursor: pointer;
}
.fold::before {
  content: "▸";
  width: 12px;
}
.fold[aria-expanded="true"]::before {
  content: "▾";
}
.level-1 .fold {
  padding-left: 22px;
  font-weight: 500;
}
.fold .count {
  font-size: 0.8rem;
  font-weight: 500;
  color: var(--ink-soft);
}
li {
  position: relative;
  display: flex;
  align-items: stretch;
  border-left: 4px solid transparent;
}
li.current {
  background: var(--sheet);
  border-left-color: var(--shell);
}
.kame-dark li.current {
  border-left-color: var(--good);
}
li.chosen .title {
  text-decoration: underline;
  text-underline-offset: 3px;
}
li.carried {
  opacity: 0.5;
}
li.lands-before::before {
  content: "";
  position: absolute;
  inset: -2px 0 auto;
  height: 4px;
  background: var(--focus);
}
.drag {
  flex: none;
  width: 20px;
  display: grid;
  place-items: center;
  cursor: grab;
  touch-action: none;
}
.drag svg {
  width: 8px;
  stroke: var(--ink-soft);
  stroke-width: 2;
  stroke-linecap: round;
}
.name {
  flex: 1;
  min-width: 0;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 7px 6px 7px 2px;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
}
.name:focus-visible {
  outline-offset: -3px;
}
.tick {
  flex: none;
  width: 18px;
  height: 18px;
  border: 1.5px solid var(--ink-soft);
  border-radius: 50%;
  font-size: 12px;
  line-height: 15px;
  text-align: center;
}
.done .tick {
  background: var(--shell);
  border-color: var(--shell);
  color: var(--shell-ink);
}
.title {
  flex: 1;
}
.title small {
  margin-left: 6px;
  color: var(--ink-soft);
}
.removed .title {
  text-decoration: line-through;
  color: var(--ink-soft);
}
.out {
  font-size: 0.78rem;
  font-weight: 600;
  color: var(--leak);
}
.letters {
  font-size: 0.8rem;
  font-weight: 650;
  color: var(--ink-soft);
  white-space: nowrap;
  word-spacing: 0.3em;
}
.wrong {
  padding: 8px 12px;
  color: var(--leak);
  background: var(--leak-soft);
  font-size: 0.88rem;
}
.wrong p {
  margin-bottom: 6px;
}
.night {
  min-width: 22px;
  padding: 0 5px;
  border: 1.5px solid var(--ink-soft);
  border-radius: 4px;
  font-size: 0.8rem;
  font-weight: 700;
  text-align: center;
}
.night.dry {
  color: var(--good);
  background: var(--good-soft);
  border-color: var(--good);
}
.night.cover,
.night.tape {
  background: var(--glue-soft);
  border-color: var(--glue);
  color: var(--ink);
}
.night.open {
  color: var(--leak);
  background: var(--leak-soft);
  border-color: var(--leak);
}
.tools {
  display: flex;
}
.tools button {
  width: 26px;
  font: inherit;
  font-weight: 700;
  color: inherit;
  background: none;
  border: 0;
  cursor: pointer;
}
.tools button:hover {
  background: var(--line);
}
@media (max-width: 760px) {
  .name,
  .fold {
    min-height: 44px;
  }
  .tools button {
    width: 40px;
  }
  .drag {
    width: 34px;
  }
}
</style>
