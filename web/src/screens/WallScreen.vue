<script setup lang="ts">
import Button from "primevue/button";
import Menu from "primevue/menu";
import Message from "primevue/message";
import SelectButton from "primevue/selectbutton";
import { useEventListener, useIntervalFn } from "@vueuse/core";
import { computed, inject, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import type { SectionKind, Weather } from "../api/client";
import ElevationDrawing from "../components/ElevationDrawing.vue";
import FindingsList from "../components/FindingsList.vue";
import HelpSheet from "../components/HelpSheet.vue";
import KameMark from "../components/KameMark.vue";
import SectionDrawing from "../components/SectionDrawing.vue";
import SchoolsPanel from "../components/SchoolsPanel.vue";
import SequenceRail from "../components/SequenceRail.vue";
import SizesPanel from "../components/SizesPanel.vue";
import StaleDialog from "../components/StaleDialog.vue";
import StepCard from "../components/StepCard.vue";
import { editOf, stepOf } from "../lib/fix";
import { darkKey } from "../lib/theme-key";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
const route = useRoute();
const router = useRouter();
const dark = inject(darkKey, ref(false));
const drawing = ref<InstanceType<typeof ElevationDrawing> | null>(null);
const files = ref<InstanceType<typeof Menu> | null>(null);
const help = ref(false);
type Panel = "card" | "findings" | "sizes" | "made" | "rail";
const panel = ref<Panel>("card");

watch(
  () => Number(route.params.id),
  (id) => {
    if (route.name === "wall" && Number.isFinite(id) && job.state?.id !== id) void job.open(id);
    else if (route.name === "wall") void job.refresh();
  },
  { immediate: true },
);

const weathers: { label: string; value: Weather }[] = [
  { label: s.weather.dry, value: "dry" },
  { label: s.weather.rain, value: "rain" },
  { label: s.weather.lost, value: "lost" },
];
/** Letting it rain shows the worst there is to see, at once. */
async function rain(value: Weather | null) {
  if (!value) return;
  job.weather = value;
  await job.refresh();
  if (value === "dry") return;
  const lost = value === "lost";
  const worst =
    job.view?.findings.find((f) => f.drop.length > 0 && (f.scenario === "rain-no-glue") === lost) ??
    job.view?.findings.find((f) => f.drop.length > 0 && f.severity !== "glue");
  job.finding = worst?.number ?? null;
  if (worst) panel.value = "findings";
}
const verdict = computed(() => {
  const v = job.view;
  if (!v) return null;
  const glue = v.findings.filter((f) => f.severity === "glue").reduce((n, f) => n + 1 + f.also.length, 0);
  const notes = v.findings.filter((f) => f.severity === "note").length;
  const leaks = v.findings.some((f) => f.severity === "leak");
  const wrong = !leaks && v.findings.some((f) => f.severity === "pond") ? s.verdict.stands : s.verdict.leaks;
  const held = glue ? s.verdict.glue(glue) : s.verdict.laps;
  const more = v.verdict.finished || v.verdict.dry ? held : s.verdict.asItStands;
  return {
    kind: v.verdict.dry ? "good" : v.verdict.finished ? "bad" : "open",
    text: v.verdict.dry ? s.verdict.dry : v.verdict.finished ? wrong : s.verdict.unfinished,
    more: notes ? `${more} · ${s.verdict.notes(notes)}` : more,
  };
});
const panels = computed(() => [
  { label: s.card.title, value: "card" as Panel },
  { label: `${s.findings.title} ${job.view?.findings.length ?? ""}`, value: "findings" as Panel },
  { label: s.sizes.title, value: "sizes" as Panel },
  { label: s.made.title, value: "made" as Panel },
]);
const narrowPanels = computed(() => [...panels.value, { label: s.rail.short, value: "rail" as Panel }]);
const download = (what: string) => () => window.location.assign(`/api/jobs/${job.state?.id}/${what}`);
const at = () => (job.done === null ? "" : `?done=${job.done}`);
const fileItems = [
  { label: s.wall.exportJob, command: download("file") },
  { label: s.wall.exportCsv, command: download("cut-list.csv") },
  ...(["svg", "pdf", "dxf"] as const).map((f) => ({
    label: `${s.wall.exportElevation} ${f.toUpperCase()}`,
    command: () => download(`drawings/elevation.${f}${at()}`)(),
  })),
  ...(["pdf", "dxf"] as const).map((f) => ({
    label: `${s.wall.exportSection} ${f.toUpperCase()}`,
    command: () => download(`drawings/section.${f}?section=${job.section ?? "sill"}&opening=${job.opening}`)(),
  })),
  { label: s.wall.exportLayup, command: () => download(`layup${at()}`)() },
];

const {
  isActive: playing,
  pause,
  resume,
} = useIntervalFn(
  () => {
    const now = job.view?.done ?? 0;
    if (now >= job.total) pause();
    else void job.goTo(now + 1);
  },
  650,
  { immediate: false },
);
function play() {
  if (playing.value) return pause();
  job.chosen = null;
  panel.value = "card";
  if ((job.view?.done ?? 0) >= job.total) void job.goTo(0);
  resume();
}
function go(n: number) {
  pause();
  job.chosen = null;
  void job.goTo(n);
}
function toggleSection() {
  const order: (SectionKind | null)[] = [null, "sill", "head", "jamb"];
  // After the jamb the stack is drawn apart, and then the pane closes.
  if (job.apart) job.apart = false;
  else if (job.section === "jamb") [job.section, job.apart] = [null, true];
  else job.section = order[(order.indexOf(job.section) + 1) % order.length] ?? null;
  void job.refresh();
}
function toggleNights() {
  if (job.nights) job.nights = null;
  else void job.loadNights();
}
function nextFinding() {
  const all = job.view?.findings ?? [];
  if (all.length === 0) return;
  panel.value = "findings";
  job.finding = ((job.finding ?? 0) % all.length) + 1;
  const f = job.currentFinding;
  if (f && job.weather === "dry" && f.drop.length) {
    job.weather = f.scenario === "rain-no-glue" ? "lost" : "rain";
    void job.refresh();
  }
}
function stepBy(by: -1 | 1) {
  const steps = job.view?.steps ?? [];
  const done = job.view?.done ?? 0;
  const from = job.chosen
    ? steps.findIndex((x) => x.id === job.chosen)
    : steps.findLastIndex((x) => !x.removed && x.starts < done);
  const step = steps[Math.max(0, Math.min(steps.length - 1, from + by))];
  if (!step) return;
  job.chosen = step.id;
  panel.value = "card";
  void job.goTo(step.removed ? step.starts : step.ends);
}
function doFix() {
  const f = job.currentFinding?.fix;
  if (!f) return;
  job.chosen = stepOf(f) ?? job.chosen;
  void job.change(editOf(f), s.findings.fix);
}
function chosenStep(act: "up" | "down" | "toggle") {
  const steps = job.view?.steps ?? [];
  const i = steps.findIndex((x) => x.id === job.chosen);
  const step = steps[i];
  if (!step) return;
  if (act === "toggle")
    void job.change({ edit: step.removed ? "restore_step" : "remove_step", step: step.id }, step.title);
  else if (act === "up" && i > 0)
    void job.change({ edit: "move_step", step: step.id, before: steps[i - 1]?.id ?? null }, step.title);
  else if (act === "down" && i < steps.length - 1)
    void job.change({ edit: "move_step", step: step.id, before: steps[i + 2]?.id ?? null }, step.title);
}
function typeSize() {
  panel.value = "sizes";
  requestAnimationFrame(() => document.getElementById("quick")?.focus());
}

useEventListener(document, "keydown", (e: KeyboardEvent) => {
  const on = e.target as HTMLElement;
  if (on.closest("input, textarea, [role=dialog], [role=menu]")) return;
  const done = job.view?.done ?? 0;
  const ctrl = e.ctrlKey || e.metaKey;
  const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
  if (ctrl && key === "z") void job.travel(e.shiftKey ? "redo" : "undo");
  else if (ctrl && key === "y") void job.travel("redo");
  else if (ctrl) return;
  else if (e.altKey && key === "ArrowUp") chosenStep("up");
  else if (e.altKey && key === "ArrowDown") chosenStep("down");
  else if (e.altKey) return;
  else if (key === "ArrowLeft") go(done - 1);
  else if (key === "ArrowRight") go(done + 1);
  else if (key === "Home") go(0);
  else if (key === "End") go(job.total);
  else if (key === " " && !on.closest("button, a")) play();
  else if (key === "r") void rain(({ dry: "rain", rain: "lost", lost: "dry" } as const)[job.weather]);
  else if (key === "s") toggleSection();
  else if (key === "n") toggleNights();
  else if (key === "f") nextFinding();
  else if (key === "g") doFix();
  else if (key === "[") stepBy(-1);
  else if (key === "]") stepBy(1);
  else if (key === "Delete") chosenStep("toggle");
  else if (key === "w") typeSize();
  else if (key === "+" || key === "=") drawing.value?.zoom(0.75);
  else if (key === "-") drawing.value?.zoom(1.33);
  else if (key === "0") drawing.value?.fitWall();
  else if (key === "c") void router.push({ name: "cut", params: { id: String(route.params.id) } });
  else if (key === "?") help.value = true;
  else return;
  e.preventDefault();
});
</script>

<template>
  <div class="wall-screen" :class="{ sectioned: job.section || job.apart }">
    <header class="bar">
      <RouterLink to="/" class="home" :aria-label="s.wall.back"><KameMark /></RouterLink>
      <h1 :title="job.state?.job.name">{{ job.state?.job.name ?? s.kame }}</h1>
      <SelectButton
        class="weather"
        :model-value="job.weather"
        :options="weathers"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        :aria-label="s.weather.label"
        data-test="weather"
        @update:model-value="rain"
      />
      <div class="buttons">
        <Button
          text
          :label="s.wall.undoShort"
          :title="s.wall.undo(job.state?.undo ?? '')"
          :disabled="!job.state?.undo"
          data-test="undo"
          @click="job.travel('undo')"
        />
        <Button
          text
          :label="s.wall.redoShort"
          :title="s.wall.redo(job.state?.redo ?? '')"
          :disabled="!job.state?.redo"
          data-test="redo"
          @click="job.travel('redo')"
        />
        <Button
          text
          :label="s.section.show"
          :aria-pressed="job.section !== null || job.apart"
          data-test="section-toggle"
          @click="toggleSection"
        />
        <Button
          text
          :label="s.night.show"
          :aria-pressed="job.nights !== null"
          data-test="tonight"
          @click="toggleNights"
        />
        <Button
          text
          :label="s.start.open"
          data-test="to-start"
          @click="router.push({ name: 'start', params: { id: String(route.params.id) } })"
        />
        <Button
          text
          :label="s.wall.tabs.cut"
          data-test="to-cut-list"
          @click="router.push({ name: 'cut', params: { id: String(route.params.id) } })"
        />
        <Button
          text
          :label="s.wall.tabs.truck"
          data-test="to-truck"
          @click="router.push({ name: 'truck', params: { id: String(route.params.id) } })"
        />
        <Button text :label="s.wall.files" aria-haspopup="true" data-test="files" @click="files?.toggle($event)" />
        <Menu ref="files" :model="fileItems" popup />
        <Button text :label="dark ? s.wall.light : s.wall.dark" @click="dark = !dark" />
        <Button text :label="s.wall.help" data-test="help-button" @click="help = true" />
      </div>
    </header>

    <Message
      v-if="job.error && job.state"
      class="problem"
      severity="error"
      :closable="true"
      data-test="error"
      @close="job.error = null"
      >{{ job.error }}</Message
    >

    <main v-if="job.view">
      <aside class="left"><SequenceRail /></aside>
      <div class="middle">
        <div class="pictures">
          <div class="picture"><ElevationDrawing ref="drawing" /></div>
          <div v-if="job.section || job.apart" class="cut"><SectionDrawing /></div>
        </div>
        <footer class="scrub">
          <div class="row">
            <Button
              size="small"
              severity="secondary"
              :aria-label="s.rail.back"
              :disabled="job.view.done === 0"
              @click="go(job.view.done - 1)"
              >◀</Button
            >
            <Button size="small" :label="playing ? s.rail.pause : s.rail.play" data-test="play" @click="play" />
            <Button
              size="small"
              severity="secondary"
              :aria-label="s.rail.next"
              :disabled="job.view.done === job.view.total"
              @click="go(job.view.done + 1)"
              >▶</Button
            >
            <input
              type="range"
              min="0"
              :max="job.view.total"
              :value="job.view.done"
              :aria-label="s.rail.scrub"
              :aria-valuetext="s.rail.of(job.view.done, job.view.total)"
              data-test="scrub"
              @input="go(Number(($event.target as HTMLInputElement).value))"
            />
            <span class="count" data-test="count">{{ s.rail.of(job.view.done, job.view.total) }}</span>
          </div>
          <p v-if="verdict" class="verdict" :class="verdict.kind" data-test="verdict" aria-live="polite">
            <b>{{ verdict.text }}</b> · {{ verdict.more }}
          </p>
        </footer>
      </div>
      <aside class="right">
        <SelectButton
          v-model="panel"
          class="tabs wide"
          :options="panels"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          size="small"
          data-test="panels"
          aria-label="Panel"
        />
        <SelectButton
          v-model="panel"
          class="tabs narrow"
          :options="narrowPanels"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          size="small"
          aria-label="Panel"
        />
        <div class="panel">
          <StepCard v-if="panel === 'card'" />
          <FindingsList v-else-if="panel === 'findings'" />
          <SizesPanel v-else-if="panel === 'sizes'" />
          <SchoolsPanel v-else-if="panel === 'made'" />
          <SequenceRail v-else />
        </div>
      </aside>
    </main>
    <div v-else-if="job.error" class="state" role="alert">
      <h2>{{ job.missing ? s.errors.notFound : s.errors.title }}</h2>
      <p>{{ job.error }}</p>
      <p class="row">
        <Button :label="s.errors.retry" @click="job.open(Number(route.params.id))" /><Button
          severity="secondary"
          :label="s.wall.back"
          @click="router.push('/')"
        />
      </p>
    </div>
    <div v-else class="state" aria-busy="true">
      <p>{{ s.wall.loading }}</p>
    </div>
    <HelpSheet v-model="help" />
    <StaleDialog />
  </div>
</template>

<style scoped>
.wall-screen {
  display: flex;
  flex-direction: column;
  height: 100dvh;
}
.bar {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 6px 12px;
  color: var(--shell-ink);
  background: var(--shell);
}
.home {
  display: grid;
}
h1 {
  flex: 1;
  min-width: 0;
  font-size: 1rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.buttons {
  display: flex;
}
.bar :deep(.p-button-text) {
  color: inherit;
  padding-inline: 8px;
}
.bar :deep(.p-button-text:hover) {
  background: rgb(255 255 255 / 14%);
  color: inherit;
}
.bar :deep(.p-button-text[aria-pressed="true"]) {
  background: rgb(255 255 255 / 20%);
}
.problem {
  border-radius: 0;
}
main {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr) 330px;
}
.left {
  min-height: 0;
  border-right: 1px solid var(--line);
}
.middle {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
}
.pictures {
  flex: 1;
  display: flex;
  min-height: 0;
}
.picture {
  flex: 1;
  min-width: 0;
}
.cut {
  flex: 1.15;
  min-width: 0;
  border-left: 2px solid var(--ink);
}
.scrub {
  padding: 8px 12px;
  border-top: 1px solid var(--line);
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.row input[type="range"] {
  flex: 1;
  min-width: 60px;
  height: 28px;
  accent-color: var(--shell);
}
.kame-dark .row input[type="range"] {
  accent-color: var(--good);
}
.count {
  white-space: nowrap;
  font-size: 0.88rem;
}
.verdict {
  margin-top: 6px;
  padding: 4px 10px;
  border-left: 6px solid var(--line);
}
.verdict.good {
  color: var(--good);
  background: var(--good-soft);
  border-color: var(--good);
}
.verdict.bad {
  color: var(--leak);
  background: var(--leak-soft);
  border-color: var(--leak);
}
.right {
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-left: 1px solid var(--line);
}
.tabs {
  display: flex;
  padding: 6px 10px;
}
.tabs :deep(button) {
  flex: 1;
}
.narrow {
  display: none;
}
.panel {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.state {
  margin: auto;
  max-width: 460px;
  padding: 24px;
  text-align: center;
}
.state .row {
  justify-content: center;
  margin-top: 14px;
}
@media (max-width: 1020px) {
  main {
    grid-template-columns: 210px minmax(0, 1fr) 280px;
  }
}
@media (max-width: 760px) {
  .wall-screen {
    height: auto;
    min-height: 100dvh;
  }
  .bar {
    flex-wrap: wrap;
    gap: 4px 8px;
  }
  h1 {
    font-size: 0.95rem;
  }
  .weather {
    order: 3;
    width: 100%;
    display: flex;
  }
  .weather :deep(button) {
    flex: 1;
    min-height: 44px;
  }
  .buttons {
    order: 4;
    width: 100%;
    overflow-x: auto;
  }
  .buttons :deep(button) {
    flex: none;
    min-height: 44px;
    white-space: nowrap;
  }
  .tabs {
    overflow-x: auto;
  }
  .tabs :deep(button) {
    flex: 1 0 auto;
    padding-inline: 6px;
  }
  main {
    display: block;
  }
  .left {
    display: none;
  }
  .pictures {
    display: block;
  }
  .picture {
    height: 46dvh;
  }
  .cut {
    height: 60dvh;
    border: 0;
    border-top: 2px solid var(--ink);
  }
  .scrub {
    position: sticky;
    bottom: 0;
    z-index: 2;
    background: var(--paper);
  }
  .scrub :deep(button) {
    min-height: 44px;
    min-width: 44px;
  }
  .count {
    display: none;
  }
  .wide {
    display: none;
  }
  .narrow {
    display: flex;
    overflow-x: auto;
  }
  .narrow :deep(button) {
    min-height: 44px;
    white-space: nowrap;
  }
  .right {
    border-left: 0;
    padding-bottom: 80px;
  }
}
</style>
