<script setup lang="ts">
import SelectButton from "primevue/selectbutton";
import { useIntervalFn } from "@vueuse/core";
import { computed, onMounted, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import type { SectionKind, Weather } from "../api/client";
import { roomAddress } from "../shell/rooms";
import { useShortcuts } from "../shell/useShortcuts";
import { sectionsOf } from "../lib/sections";
import { useJob } from "../stores/job";
import { s } from "../strings";
import BuildingDrawing from "../wall/BuildingDrawing.vue";
import BuildingPanel from "../wall/BuildingPanel.vue";
import ElevationDrawing from "../wall/ElevationDrawing.vue";
import FindingsList from "../wall/FindingsList.vue";
import SchoolsPanel from "../wall/SchoolsPanel.vue";
import ScrubBar from "../wall/ScrubBar.vue";
import SectionDrawing from "../wall/SectionDrawing.vue";
import SequenceRail from "../wall/SequenceRail.vue";
import SizesPanel from "../wall/SizesPanel.vue";
import StepCard from "../wall/StepCard.vue";
import VerdictLine from "../wall/VerdictLine.vue";
import WallTools from "../wall/WallTools.vue";
import { useAddress } from "../wall/useAddress";

const job = useJob();
const route = useRoute();
const router = useRouter();
const drawing = ref<InstanceType<typeof ElevationDrawing> | null>(null);
type Panel = "building" | "card" | "findings" | "sizes" | "made" | "rail";
const panel = ref<Panel>("card");
/** The whole building is drawn, in place of its walls unfolded. */
const whole = ref(false);
const first = ref<[number, number] | null>(null);
/** More than one wall: the whole building comes first. */
const isBuilding = computed(() => (job.view?.elevation.key.length ?? 0) > 1);

// What was changed in another room is shown as it is now.
onMounted(() => {
  if (job.state?.id === Number(route.params.id)) void job.refresh();
});
let shownFirst: number | null = null;
watch(
  () => job.view && job.state?.id,
  (id) => {
    if (!id || shownFirst === id) return;
    shownFirst = id;
    const chosen = job.openingId ?? job.chosen ?? job.finding;
    whole.value = chosen === null && isBuilding.value;
    if (whole.value) panel.value = "building";
  },
  { immediate: true },
);
useAddress(async ({ place, step, finding }) => {
  if (finding) panel.value = "findings";
  else if (step) panel.value = "card";
  await job.refresh();
  if (place) await goPlace(place);
});

/** Letting it rain shows the worst there is to see, at once. */
async function rain(value: Weather) {
  job.weather = value;
  await job.refresh();
  if (value === "dry") return;
  const lost = value === "lost";
  const worst =
    job.view?.findings.find((f) => f.drop.length > 0 && f.lost === lost) ??
    job.view?.findings.find((f) => f.drop.length > 0 && f.severity !== "glue");
  job.finding = worst?.number ?? null;
  if (worst) panel.value = "findings";
}
/** The moments beside the one shown are asked for while it is looked at, first the one it goes on to. */
let before = 0;
watch(
  () => job.view,
  async (view) => {
    if (!view) return;
    const way = view.done < before ? -1 : 1;
    before = view.done;
    await new Promise((painted) => requestAnimationFrame(() => setTimeout(painted)));
    for (const by of [way, -way]) if (job.view === view) await job.lookAhead(view.done + by);
  },
);
const count = computed(() => job.view?.findings.length ?? "");
const panels = computed(() => [
  ...(isBuilding.value ? [{ label: s.building.title, value: "building" as Panel }] : []),
  { label: s.card.title, value: "card" as Panel },
  { label: `${s.findings.title} ${count.value}`, value: "findings" as Panel },
  { label: s.sizes.title, value: "sizes" as Panel },
  { label: s.made.title, value: "made" as Panel },
]);
const narrowPanels = computed(() => [...panels.value, { label: s.rail.short, value: "rail" as Panel }]);

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
  const order: (SectionKind | null)[] = [null, ...sectionsOf(job.state?.job, job.opening)];
  // After the last cut the stack is drawn apart, and then the pane closes.
  if (job.apart) job.apart = false;
  else if (job.section && job.section === order.at(-1)) [job.section, job.apart] = [null, true];
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
    job.weather = f.lost ? "lost" : "rain";
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
  if (job.finding !== null) void job.takeRemedy(job.finding);
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
async function goPlace(id: string) {
  first.value = null;
  whole.value = false;
  job.openingId = id;
  await job.refresh();
  drawing.value?.fitOpening();
}
function goWall(along: [number, number]) {
  first.value = along;
  drawing.value?.fitStretch(along);
  whole.value = false;
}
// A finding and a section are of one wall: the building gives way to it.
watch([() => job.finding, () => job.section, () => job.apart], ([finding, section, apart]) => {
  if (finding !== null || section !== null || apart) whole.value = false;
});
function toggleBuilding() {
  if (!isBuilding.value) return;
  first.value = null;
  whole.value = !whole.value;
}

const NEXT = { dry: "rain", rain: "lost", lost: "dry" } as const;
useShortcuts({
  "alt ArrowUp": () => chosenStep("up"),
  "alt ArrowDown": () => chosenStep("down"),
  ArrowLeft: () => go((job.view?.done ?? 0) - 1),
  ArrowRight: () => go((job.view?.done ?? 0) + 1),
  Home: () => go(0),
  End: () => go(job.total),
  " ": play,
  r: () => void rain(NEXT[job.weather]),
  s: toggleSection,
  n: toggleNights,
  b: toggleBuilding,
  f: nextFinding,
  g: doFix,
  "[": () => stepBy(-1),
  "]": () => stepBy(1),
  Delete: () => chosenStep("toggle"),
  w: typeSize,
  "+": () => drawing.value?.zoom(0.75),
  "=": () => drawing.value?.zoom(0.75),
  "-": () => drawing.value?.zoom(1.33),
  "0": () => drawing.value?.fitWall(),
  c: () => void router.push(roomAddress("cut", String(route.params.id))),
});
</script>

<template>
  <main v-if="job.view" class="wall" :class="{ sectioned: !whole && (job.section || job.apart) }">
    <aside class="left"><SequenceRail /></aside>
    <div class="middle">
      <WallTools @rain="rain" @section="toggleSection" @nights="toggleNights" />
      <div class="pictures">
        <div class="picture">
          <BuildingDrawing v-if="whole" @wall="goWall" @place="goPlace" />
          <ElevationDrawing
            v-else
            ref="drawing"
            :first="first"
            @findings="panel = 'findings'"
            @building="whole = true"
          />
        </div>
        <div v-if="!whole && (job.section || job.apart)" class="cut"><SectionDrawing /></div>
      </div>
      <footer class="scrub">
        <ScrubBar :playing="playing" @go="go" @play="play" />
        <VerdictLine />
      </footer>
    </div>
    <aside class="right">
      <SelectButton
        v-for="(list, width) in { wide: panels, narrow: narrowPanels }"
        :key="width"
        v-model="panel"
        class="tabs"
        :class="width"
        :options="list"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        :data-test="width === 'wide' ? 'panels' : undefined"
        :aria-label="s.wall.panels"
      />
      <!-- It scrolls, and where one may only look nothing in it takes the focus. -->
      <div
        class="panel"
        role="region"
        :tabindex="job.mayChange ? undefined : 0"
        :aria-label="narrowPanels.find((p) => p.value === panel)?.label"
      >
        <BuildingPanel v-if="panel === 'building'" @wall="goWall" @place="goPlace" />
        <StepCard v-else-if="panel === 'card'" />
        <FindingsList v-else-if="panel === 'findings'" />
        <SizesPanel v-else-if="panel === 'sizes'" />
        <SchoolsPanel v-else-if="panel === 'made'" />
        <SequenceRail v-else />
      </div>
    </aside>
  </main>
  <p v-else class="state" aria-busy="true">{{ s.wall.loading }}</p>
</template>

<style scoped>
.wall {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr) 336px;
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
  flex: 2.2;
  min-width: 0;
  border-left: 2px solid var(--ink);
}
.scrub {
  padding: 8px 12px;
  border-top: 1px solid var(--line);
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
  flex: 1 1 auto;
  padding-inline: 3px;
  font-size: 0.85rem;
  white-space: nowrap;
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
  padding: 24px;
}
@media (max-width: 1020px) {
  .wall {
    grid-template-columns: 210px minmax(0, 1fr) 280px;
  }
}
@media (max-width: 760px) {
  .tabs {
    overflow-x: auto;
  }
  .tabs :deep(button) {
    flex: 1 0 auto;
    padding-inline: 6px;
  }
  .wall {
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
    bottom: 53px;
    z-index: 2;
    background: var(--paper);
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
