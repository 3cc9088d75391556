<script setup lang="ts">
import { useElementSize } from "@vueuse/core";
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import { computed, ref, watch } from "vue";
import { scaleOfAll, scaleOfRows, type Place, type PlaceBy } from "../lib/building";
import { kindOf } from "../lib/verdict";
import { useBuilding } from "../stores/building";
import { useJob } from "../stores/job";
import { s } from "../strings";
import VerdictMark from "./VerdictMark.vue";
import WallFace from "./WallFace.vue";

/** The whole building: its walls side by side, or folded up as it stands. */
const emit = defineEmits<{ wall: [along: [number, number]]; place: [id: string] }>();
const job = useJob();
const folded = ref(false);
const by = ref<PlaceBy>("verdict");
const building = useBuilding();
const walls = computed(() => building.walls);
watch(
  [by, () => job.state?.revision],
  ([what]) => {
    building.wantsDays ||= what === "day";
    if (what === "tonight" && !job.nights) void job.loadNights();
  },
  { immediate: true },
);
const open = computed(() => (by.value === "tonight" ? (job.tonight?.places ?? []) : []));

const frame = ref<HTMLElement | null>(null);
const { width, height } = useElementSize(frame);
const GAP = 14;
const HEAD = 30;
/** So much room a wall's name has, however short the wall. */
const NAMED = 150;
const MARGIN = 24;
/** The longest wall is at least so wide; what then does not fit is scrolled to. */
const LEAST = 190;
const tall = computed(() => walls.value[0]?.foot ?? 1);
const scale = computed(() => {
  const room = { width: Math.max(60, width.value - MARGIN), height: Math.max(60, height.value - MARGIN) };
  const sizes = walls.value.map((w) => ({ length: w.along[1] - w.along[0], height: tall.value - w.top }));
  // Each row has its names over it, which do not grow with the walls.
  const whole = scaleOfRows(sizes, room, { across: GAP, down: GAP + HEAD, least: NAMED });
  return Math.max(whole, Math.min(LEAST, room.width) / Math.max(...sizes.map((w) => w.length), 1));
});

// Folded up: turned by dragging and by keys.
const FIRST_TILT = 24;
const turn = ref(-32);
const tilt = ref(FIRST_TILT);
const whole = computed(() =>
  scaleOfAll(walls.value, tall.value, { width: width.value - 40, height: height.value - 40 }, FIRST_TILT),
);
let pulled: { x: number; y: number; turn: number; tilt: number } | null = null;
const moving = ref(false);
const between = (x: number, least: number, most: number) => Math.min(Math.max(x, least), most);
function down(e: PointerEvent) {
  pulled = { x: e.clientX, y: e.clientY, turn: turn.value, tilt: tilt.value };
}
function move(e: PointerEvent) {
  if (!pulled) return;
  const [dx, dy] = [e.clientX - pulled.x, e.clientY - pulled.y];
  if (!moving.value && Math.hypot(dx, dy) < 4) return;
  if (!moving.value) (e.currentTarget as Element).setPointerCapture(e.pointerId);
  moving.value = true;
  turn.value = pulled.turn + dx * 0.4;
  tilt.value = between(pulled.tilt + dy * 0.3, 4, 60);
}
function up() {
  pulled = null;
  // The press that ends a pull chooses nothing.
  requestAnimationFrame(() => (moving.value = false));
}
function keys(e: KeyboardEvent) {
  const step = { ArrowLeft: [-15, 0], ArrowRight: [15, 0], ArrowUp: [0, 6], ArrowDown: [0, -6] }[e.key];
  if (!step || e.target !== e.currentTarget) return;
  turnBy(step[0] ?? 0, step[1] ?? 0);
  e.preventDefault();
  e.stopPropagation();
}
function turnBy(round: number, up: number) {
  turn.value += round;
  tilt.value = between(tilt.value + up, 4, 60);
}
const floor = computed(() => {
  const { x, z, reach, ends } = whole.value;
  const corners = ends.map((e) => `${e.x - x + reach},${e.z - z + reach}`);
  return { corners: corners.join(" "), reach };
});

const looked = ref<Place | null>(null);
function chosenWall(along: [number, number]) {
  if (!moving.value) emit("wall", along);
}
function chosenPlace(id: string) {
  if (!moving.value) emit("place", id);
}
const ways = (["verdict", "phase", "trade", "day", "tonight"] as const).map((value) => ({
  value,
  label: s.building.by[value],
}));
const forms = [
  { value: false, label: s.building.rows },
  { value: true, label: s.building.folded },
];
/** What colours and signs mean: those that stand on the walls. */
const legend = computed(() => {
  const all = walls.value.flatMap((w) => w.places);
  const kinds = new Map<string, string>();
  for (const p of all) {
    if (by.value === "verdict")
      kinds.set(p.state === 4 ? "unfinished" : kindOf(p.state), s.verdict.says[p.state] ?? "");
    else if (by.value === "tonight") kinds.set(p.opening.state, s.building.state[p.opening.state]);
    else if (!p.next) kinds.set("finished", s.building.finished);
    else if (by.value === "phase") kinds.set(`phase-${p.next.phase}`, s.filter.phases[p.next.phase]);
    else if (by.value === "trade") kinds.set(`trade-${p.next.trade}`, s.filter.trades[p.next.trade]);
    else kinds.set("day", s.building.dayOf);
  }
  if (open.value.length) kinds.set("left-open", s.building.leftOpen);
  return [...kinds];
});
</script>

<template>
  <section class="building" :aria-label="s.building.title" data-test="building-drawing">
    <div class="bar no-print">
      <SelectButton
        v-model="folded"
        :options="forms"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        :aria-label="s.building.form"
        data-test="building-form"
      />
      <SelectButton
        v-model="by"
        :options="ways"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        :aria-label="s.building.shows"
        data-test="building-by"
      />
    </div>
    <div ref="frame" class="frame">
      <div v-if="!folded" class="rows" data-test="rows">
        <figure
          v-for="(w, i) in walls"
          :key="i"
          :style="{ width: `${Math.max((w.along[1] - w.along[0]) * scale, NAMED)}px` }"
          :data-row-wall="i"
        >
          <button class="name" :data-go-wall="i" @click="emit('wall', w.along)">
            <VerdictMark :state="w.state" /><b>{{ w.name }}</b>
          </button>
          <WallFace
            :wall="w"
            :scale="scale"
            :by="by"
            :open="open"
            :chosen="job.openingId"
            @place="chosenPlace"
            @look="(p) => (looked = p)"
          />
        </figure>
      </div>
      <div
        v-else
        class="scene"
        tabindex="0"
        role="application"
        :aria-label="s.building.turnHelp"
        data-test="scene"
        @pointerdown="down"
        @pointermove="move"
        @pointerup="up"
        @pointercancel="up"
        @keydown="keys"
      >
        <div class="turned" :class="{ moving }" :style="{ transform: `rotateX(${-tilt}deg) rotateY(${turn}deg)` }">
          <div
            class="floor"
            :style="{
              width: `${2 * floor.reach * whole.scale}px`,
              height: `${2 * floor.reach * whole.scale}px`,
              transform: `translate(-50%, -50%) translateY(${(tall / 2) * whole.scale}px) rotateX(90deg)`,
            }"
          >
            <svg :viewBox="`0 0 ${2 * floor.reach} ${2 * floor.reach}`">
              <polygon :points="floor.corners" :stroke-width="1 / whole.scale" />
            </svg>
          </div>
          <div
            v-for="(w, i) in walls"
            :key="i"
            class="stood"
            :style="{
              transform: `translate3d(${(w.stands.x - whole.x) * whole.scale}px, ${(w.top - tall / 2) * whole.scale}px, ${(w.stands.z - whole.z) * whole.scale}px) rotateY(${w.stands.turn}deg)`,
            }"
          >
            <svg
              class="back"
              :viewBox="`${w.along[0]} ${w.top} ${w.along[1] - w.along[0]} ${tall - w.top}`"
              :style="{
                width: `${(w.along[1] - w.along[0]) * whole.scale}px`,
                height: `${(tall - w.top) * whole.scale}px`,
              }"
            >
              <polygon :points="w.outline" :stroke-width="1 / whole.scale" />
            </svg>
            <div class="front" @click="chosenWall(w.along)">
              <WallFace
                :wall="w"
                :scale="whole.scale"
                :by="by"
                :open="open"
                :chosen="job.openingId"
                @place="chosenPlace"
                @look="(p) => (looked = p)"
              />
              <span class="sign" :style="{ maxWidth: `${(w.along[1] - w.along[0]) * whole.scale - 12}px` }">{{
                w.name
              }}</span>
            </div>
          </div>
        </div>
        <div class="turners no-print">
          <Button size="small" severity="secondary" :aria-label="s.building.left" @click="turnBy(30, 0)">↻</Button>
          <Button size="small" severity="secondary" :aria-label="s.building.right" @click="turnBy(-30, 0)">↺</Button>
        </div>
      </div>
    </div>
    <p class="legend">
      <span v-for="[kind, words] in legend" :key="kind" class="entry"><i :class="kind"></i>{{ words }}</span>
      <span class="looked" aria-live="polite">
        <template v-if="looked">
          <b>{{ looked.id }}</b> {{ looked.name }} · {{ s.building.done(looked.done, looked.all) }}
          <template v-if="looked.next">{{ s.building.next(looked.next.title) }}</template>
        </template>
        <template v-else>{{ s.building.help }}</template>
      </span>
    </p>
  </section>
</template>

<style scoped>
.building {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
  background: var(--sheet);
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  padding: 8px 12px 0;
}
.frame {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: auto;
}
.rows {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-content: center;
  align-items: flex-end;
  justify-content: center;
  min-height: 100%;
  padding: 8px 12px;
}
figure {
  margin: 0;
}
.name {
  display: flex;
  gap: 4px;
  align-items: center;
  width: 100%;
  height: 28px;
  padding: 0;
  overflow: hidden;
  font: inherit;
  color: inherit;
  white-space: nowrap;
  background: none;
  border: 0;
  cursor: pointer;
}
.name b {
  overflow: hidden;
  text-overflow: ellipsis;
}
.name:hover b {
  text-decoration: underline;
}
.scene {
  position: absolute;
  inset: 0;
  overflow: hidden;
  cursor: grab;
  touch-action: none;
  user-select: none;
}
.turned {
  position: absolute;
  left: 50%;
  top: 50%;
  transform-style: preserve-3d;
  transition: transform 0.3s;
}
.turned.moving {
  transition: none;
}
.stood,
.floor {
  position: absolute;
  left: 0;
  top: 0;
  transform-style: preserve-3d;
}
.stood {
  transform-origin: 0 0;
}
.floor polygon {
  fill: var(--line);
  fill-opacity: 0.5;
  stroke: var(--ink-soft);
}
.back {
  position: absolute;
}
.back polygon {
  fill: var(--paper);
  fill-opacity: 0.7;
  stroke: var(--ink-soft);
}
.front {
  position: absolute;
  transform: translateZ(0.6px);
  backface-visibility: hidden;
}
.front .sign {
  position: absolute;
  left: 6px;
  bottom: 4px;
  padding: 0 5px;
  overflow: hidden;
  font-size: 0.85rem;
  font-weight: 650;
  white-space: nowrap;
  text-overflow: ellipsis;
  background: color-mix(in srgb, var(--paper) 80%, transparent);
}
.turners {
  position: absolute;
  right: 10px;
  bottom: 8px;
  display: flex;
  gap: 4px;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  min-height: 34px;
  margin: 0;
  padding: 4px 12px;
  font-size: 0.9rem;
  border-top: 1px solid var(--line);
}
.entry {
  display: flex;
  gap: 6px;
  align-items: center;
}
.entry i {
  width: 14px;
  height: 14px;
  background: var(--sheet);
  border: 1px solid var(--ink);
}
.looked {
  margin-left: auto;
  color: var(--ink-soft);
}
i.good,
i.finished {
  background: var(--good-soft);
}
i.glue {
  background: var(--glue-soft);
}
i.bad {
  background: var(--leak-soft);
}
i.left-open {
  background: var(--glue-soft);
  border: 2px dashed var(--glue);
}
i.phase-survey,
i.phase-barrier,
i.trade-barrier {
  background: var(--f-barrier);
}
i.phase-preparation {
  background: var(--f-pan);
}
i.phase-unit,
i.trade-window {
  background: var(--water-soft);
}
i.phase-flashing {
  background: var(--f-shape);
}
i.phase-inside {
  background: var(--f-lining);
}
i.phase-check,
i.trade-lead {
  background: var(--f-patch);
}
i.phase-cover,
i.trade-cladding {
  background: var(--f-jamb);
}
i.day {
  background: var(--f-head);
}
i.open {
  background: var(--open);
}
i.covered {
  border-style: dashed;
}
@media (prefers-reduced-motion: reduce) {
  .turned {
    transition: none;
  }
}
@media (max-width: 760px) {
  .looked {
    margin-left: 0;
  }
}
</style>
