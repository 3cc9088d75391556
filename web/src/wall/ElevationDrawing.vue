<script setup lang="ts">
import Button from "primevue/button";
import { computed, nextTick, onMounted, ref, watch } from "vue";
import SizeText from "../fields/SizeText.vue";
import type { Edit, OpeningView, Shape } from "../api/client";
import { dragged, sizeOf, type Handle, type OpeningSize } from "../lib/drag";
import { around, type Box } from "../lib/viewport";
import { useJob } from "../stores/job";
import { areas, lines, points } from "../lib/figures";
import { s } from "../strings";
import { isFaint } from "../lib/filter";
import PlanKey from "./PlanKey.vue";
import WallLines from "./WallLines.vue";
import { usePanZoom } from "./usePanZoom";

/** `first` is the stretch that is shown first, where somebody came here for it. */
const props = defineProps<{ first?: [number, number] | null }>();
const emit = defineEmits<{ findings: []; building: [] }>();
const job = useJob();
const svg = ref<SVGSVGElement | null>(null);
const elevation = computed(() => job.shown?.elevation ?? null);
const whole = computed<Box>(() =>
  around({ x: 0, y: 0, width: elevation.value?.width ?? 1, height: elevation.value?.height ?? 1 }, 9),
);
const { box, element: seenElement, show, zoom } = usePanZoom(svg, whole);
const opening = computed(() => elevation.value?.openings[job.opening] ?? null);

function fitWall() {
  show(whole.value);
}
/** The wall between two places of the unfolded one, whole. */
function fitStretch([from, to]: [number, number]) {
  show(around({ x: from, y: 0, width: to - from, height: elevation.value?.height ?? 1 }, 9));
}
/** Which stretch is seen. */
const seen = computed<[number, number]>(() => [box.value.x, box.value.x + box.value.width]);
/** What the walls are cut to above, where their top is not level. */
const outline = computed(() => {
  const e = elevation.value;
  return e?.top.length ? points([[0, e.height], ...e.top, [e.width, e.height]]) : null;
});
/** The gap behind the cladding, and whether air goes through it. */
const air = ref(false);
const airShown = computed(() => air.value && (elevation.value?.air.length ?? 0) > 0);
const faint = (piece: string) => faded.value.has(piece);
const faded = computed(
  () =>
    new Set(
      job.isFiltered
        ? (elevation.value?.shapes ?? [])
            .filter((x) => isFaint(x, job.view?.findings ?? [], job.filter))
            .map((x) => x.piece)
        : [],
    ),
);
// The upper edge of the first course, dragged: what it costs is told in the sizes.
const courseAt = ref<number | null>(null);
function courseEdit(y: number): Edit {
  const height = Math.round(((elevation.value?.height ?? 0) - y) * 2) / 2;
  return { edit: "set_first_course", height: `${height}` };
}
function grabCourse() {
  if (!job.mayChange) return;
  courseAt.value = elevation.value?.courses.at(-1) ?? null;
  job.dragging = true;
}
function fitOpening() {
  const o = opening.value;
  if (!o) return fitWall();
  const [x = 0, y = 0, width = 1, height = 1] = o.hull;
  show(around({ x, y, width, height }, 6));
}
defineExpose({ fitWall, fitOpening, fitStretch, zoom });

let wasWhole = `${whole.value.width}×${whole.value.height}`;
watch(whole, (now) => {
  const key = `${now.width}×${now.height}`;
  if (key !== wasWhole && !job.dragging) fitWall();
  wasWhole = key;
});
/** A building is seen whole until a place of it is chosen; one wall is seen at its opening. */
function fitFirst() {
  if (props.first) return fitStretch(props.first);
  if ((elevation.value?.key.length ?? 0) > 1 && job.openingId === null) fitWall();
  else fitOpening();
}
onMounted(() => nextTick(fitFirst));
watch(
  () => job.state?.id,
  () => nextTick(fitFirst),
);

/** A point of the screen on the drawing. */
function point(e: { clientX: number; clientY: number }) {
  const at = svg.value?.getBoundingClientRect();
  const scale = box.value.width / (at?.width || 1);
  return { x: box.value.x + (e.clientX - (at?.x ?? 0)) * scale, y: box.value.y + (e.clientY - (at?.y ?? 0)) * scale };
}

// A pointer that has grabbed an opening, an edge of one, or the first course drags it; the drawing itself is moved by `usePanZoom`.
let grabbed: {
  handle: Handle;
  id: string;
  from: OpeningSize;
  at: { x: number; y: number };
  to: OpeningSize | null;
} | null = null;

function editOf(id: string, to: OpeningSize): Edit {
  const text = (x: number) => `${x}`;
  return {
    edit: "set_opening",
    id,
    left: text(to.left),
    sill: text(to.sill),
    width: text(to.width),
    height: text(to.height),
  };
}

function grab(e: PointerEvent, o: OpeningView, index: number, handle: Handle) {
  if (!elevation.value) return;
  job.opening = index;
  if (!job.mayChange) return;
  job.dragging = true;
  grabbed = { handle, id: o.id, from: sizeOf(o.rect, elevation.value.plate), at: point(e), to: null };
}
function down(e: PointerEvent) {
  if (grabbed || courseAt.value !== null) (e.currentTarget as Element).setPointerCapture(e.pointerId);
}
function move(e: PointerEvent) {
  if (courseAt.value !== null) {
    courseAt.value = point(e).y;
    void job.preview(courseEdit(courseAt.value));
  } else if (grabbed) {
    const now = point(e);
    grabbed.to = dragged(grabbed.from, grabbed.handle, now.x - grabbed.at.x, now.y - grabbed.at.y);
    void job.preview(editOf(grabbed.id, grabbed.to));
  }
}
async function up() {
  if (courseAt.value !== null) {
    const y = courseAt.value;
    courseAt.value = null;
    job.endDrag();
    // Touched and not moved is no change.
    if (y === job.view?.elevation.courses.at(-1)) return;
    await job.change(courseEdit(y), s.sizes.firstCourse);
    return;
  }
  const g = grabbed;
  grabbed = null;
  if (!g) return;
  job.endDrag();
  if (g.to && JSON.stringify(g.to) !== JSON.stringify(g.from)) await job.change(editOf(g.id, g.to), s.sizes.window);
  else job.previewed = null;
}

function nudge(e: KeyboardEvent) {
  const o = opening.value;
  const by = e.shiftKey ? 1 : 0.25;
  const step = ({ ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] } as const)[e.key];
  if (!step || !o || !elevation.value || e.altKey || e.ctrlKey || !job.mayChange) return;
  e.preventDefault();
  e.stopPropagation();
  void job.change(
    editOf(o.id, dragged(sizeOf(o.rect, elevation.value.plate), "body", step[0], step[1])),
    s.sizes.window,
  );
}

/** Text stays readable: its size follows the zoom, between limits. */
/** Inches of the drawing to a point of the screen. */
const scale = computed(() => box.value.width / seenElement.value.width);
const letter = computed(() => Math.max(1.1, Math.min(scale.value * 15, scale.value > FAR ? 14 : 5)));
/** From so far off pieces carry no letters: only openings, corners and findings do. */
const FAR = 0.55;
const stroke = computed(() => (scale.value > FAR ? scale.value * 0.6 : box.value.height / 700));
/** What is smaller than this on the screen is not drawn, in points; names of things want more. */
const SEEN = 2.5;
const READ = 16;
const boxes = new WeakMap<Shape, [number, number, number, number]>();
/** Left, top, right and bottom of a piece, worked out once. */
function bounds(shape: Shape) {
  const known = boxes.get(shape);
  if (known) return known;
  const b: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  const take = (x = 0, y = 0) => {
    b[0] = Math.min(b[0], x);
    b[1] = Math.min(b[1], y);
    b[2] = Math.max(b[2], x);
    b[3] = Math.max(b[3], y);
  };
  for (const part of shape.parts) for (const p of part) take(p[0], p[1]);
  for (const e of shape.edges) {
    take(e[0], e[1]);
    take(e[2], e[3]);
  }
  boxes.set(shape, b);
  return b;
}
/** True for what is in sight, with some room round it, so that moving the drawing a little draws nothing new. */
function inSight(x0: number, y0: number, x1: number, y1: number) {
  const { x, y, width, height } = box.value;
  const [w, h] = [width / 4, height / 4];
  return x1 >= x - w && x0 <= x + width + w && y1 >= y - h && y0 <= y + height + h;
}
/** Pieces, each with a name of its own by which it is known again after a change. */
const named = computed(() => {
  const times = new Map<string, number>();
  return (elevation.value?.shapes ?? []).map((shape) => {
    const n = (times.get(shape.piece) ?? 0) + 1;
    times.set(shape.piece, n);
    return { shape, key: `${shape.piece} ${n}` };
  });
});
/** Pieces that are in sight and large enough to be seen; the wall is drawn whole where it is small. */
const near = computed(() => {
  if (named.value.length < FEW) return named.value;
  const least = scale.value * SEEN;
  const told = new Set(job.currentFinding?.pieces);
  return named.value.filter(({ shape }) => {
    const [x0, y0, x1, y1] = bounds(shape);
    return inSight(x0, y0, x1, y1) && (told.has(shape.piece) || Math.min(x1 - x0, y1 - y0) >= least);
  });
});
const FEW = 400;
const things = computed(() => {
  const all = (elevation.value?.openings ?? []).map((o, i) => ({ o, i }));
  if (all.length < FEW / 10) return all;
  return all.filter(
    ({
      o: {
        rect: [x = 0, y = 0, w = 0, h = 0],
      },
    }) => inSight(x, y, x + w, y + h),
  );
});
const isRead = (o: OpeningView) =>
  (elevation.value?.openings.length ?? 0) < FEW / 10 ||
  Math.min(o.rect[2] ?? 0, o.rect[3] ?? 0) >= scale.value * READ ||
  elevation.value?.openings[job.opening]?.id === o.id;
/** A flag that is pressed tells its finding. */
async function tell(number: number) {
  job.finding = number;
  emit("findings");
  // The chosen flag is drawn last, over the others: who came to it by keys stays on it.
  await nextTick();
  svg.value?.querySelector<SVGElement>(`[data-flag="${number}"]`)?.focus();
}

const drop = computed(() => (job.weather === "dry" || !job.currentFinding ? [] : job.currentFinding.drop));
const way = computed(() => drop.value.map((p, i) => `${i ? "L" : "M"}${p.x.toFixed(3)} ${p.y.toFixed(3)}`).join(""));
const still = typeof matchMedia !== "undefined" && matchMedia("(prefers-reduced-motion: reduce)").matches;
const handles: { handle: Handle; rect: (r: number[]) => number[]; cursor: string }[] = [
  { handle: "left", rect: ([x = 0, y = 0, , h = 0]) => [x - 1, y, 2, h], cursor: "ew-resize" },
  { handle: "right", rect: ([x = 0, y = 0, w = 0, h = 0]) => [x + w - 1, y, 2, h], cursor: "ew-resize" },
  { handle: "top", rect: ([x = 0, y = 0, w = 0]) => [x, y - 1, w, 2], cursor: "ns-resize" },
  { handle: "bottom", rect: ([x = 0, y = 0, w = 0, h = 0]) => [x, y + h - 1, w, 2], cursor: "ns-resize" },
];
const lettered = computed(() =>
  scale.value > FAR ? [] : near.value.map(({ shape }) => shape).filter((shape) => shape.label),
);
/** Findings on the drawing: those that the chosen water shows, side by side where they fall together, the chosen one on top. */
const marked = computed(() => {
  const shown = (job.view?.findings ?? []).filter((f) => f.severity !== "glue" || job.weather === "lost");
  const placed = shown.map((f, i) => {
    const near = shown
      .slice(0, i)
      .filter((g) => Math.hypot((g.at[0] ?? 0) - (f.at[0] ?? 0), (g.at[1] ?? 0) - (f.at[1] ?? 0)) < letter.value * 2);
    return { ...f, x: (f.at[0] ?? 0) - near.length * letter.value * 2.4, y: f.at[1] ?? 0 };
  });
  return placed.sort((a, b) => Number(a.number === job.finding) - Number(b.number === job.finding));
});
</script>

<template>
  <div class="drawing">
    <svg
      v-if="elevation"
      ref="svg"
      :viewBox="`${box.x} ${box.y} ${box.width} ${box.height}`"
      tabindex="0"
      role="application"
      :aria-label="`${s.wall.drawing}. ${s.wall.drawingHelp}`"
      data-test="elevation"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
      @keydown="nudge"
    >
      <defs v-if="outline">
        <clipPath id="top-of-wall"><polygon :points="outline" /></clipPath>
      </defs>
      <polygon
        v-if="outline"
        :points="outline"
        fill="var(--wall)"
        stroke="var(--ink)"
        :stroke-width="stroke * 1.5"
        data-test="outline"
      />
      <rect
        v-else
        x="0"
        y="0"
        :width="elevation.width"
        :height="elevation.height"
        fill="var(--wall)"
        stroke="var(--ink)"
        :stroke-width="stroke * 1.5"
      />
      <g v-for="{ o } in things" :key="`v${o.id}`">
        <rect
          v-if="o.state !== 'covered'"
          :x="o.rect[0]"
          :y="o.rect[1]"
          :width="o.rect[2]"
          :height="o.rect[3]"
          fill="var(--open)"
        />
      </g>
      <g
        v-for="{ shape, key } in near"
        :key="key"
        v-memo="[shape, stroke, faint(shape.piece), job.currentFinding?.pieces.includes(shape.piece), outline === null]"
        class="shape"
        :clip-path="outline ? 'url(#top-of-wall)' : undefined"
        :opacity="faint(shape.piece) ? 0.16 : undefined"
        :data-piece="shape.piece"
        :class="{ held: shape.held, told: job.currentFinding?.pieces.includes(shape.piece) }"
      >
        <title>{{ shape.name }}</title>
        <path :d="areas(shape.parts)" :fill="`url(#h-${shape.role})`" :opacity="shape.held ? 0.55 : 1" />
        <path
          :d="lines(shape.edges)"
          fill="none"
          stroke="var(--ink)"
          :stroke-width="stroke * 1.3"
          :stroke-dasharray="shape.held ? '1 .6' : undefined"
        />
      </g>
      <g v-for="{ o, i } in things" :key="o.id" v-memo="[o, i, letter, stroke, isRead(o), scale > FAR]">
        <g v-if="o.glass" class="unit">
          <rect
            :x="o.glass[0]"
            :y="o.glass[1]"
            :width="o.glass[2]"
            :height="o.glass[3]"
            fill="var(--f-unit)"
            stroke="var(--ink)"
            :stroke-width="stroke * 2"
            opacity=".82"
          />
          <rect
            :x="(o.glass[0] ?? 0) + 2.5"
            :y="(o.glass[1] ?? 0) + 2.5"
            :width="(o.glass[2] ?? 6) - 5"
            :height="(o.glass[3] ?? 6) - 5"
            fill="none"
            stroke="var(--ink)"
            :stroke-width="stroke"
          />
        </g>
        <rect
          v-if="o.state === 'covered'"
          :x="o.rect[0]"
          :y="o.rect[1]"
          :width="o.rect[2]"
          :height="o.rect[3]"
          fill="none"
          stroke="var(--ink)"
          :stroke-width="stroke * 1.5"
          stroke-dasharray="2 1.2"
        />
        <text
          v-if="isRead(o)"
          :x="(o.rect[0] ?? 0) + (o.rect[2] ?? 0) / 2"
          :y="(o.rect[1] ?? 0) + (o.rect[3] ?? 0) / 2"
          class="size"
          :font-size="letter * 1.1"
          :class="{ light: o.state === 'open' }"
        >
          <tspan>{{ o.id }}</tspan>
          <tspan
            v-if="o.feature === 'opening' && scale <= FAR"
            :x="(o.rect[0] ?? 0) + (o.rect[2] ?? 0) / 2"
            dy="1.25em"
          >
            <SizeText drawn :text="`${o.width} × ${o.height}`" />
          </tspan>
        </text>
        <rect
          class="grip"
          :x="o.rect[0]"
          :y="o.rect[1]"
          :width="o.rect[2]"
          :height="o.rect[3]"
          fill="transparent"
          :data-opening="o.id"
          :style="{ cursor: job.mayChange ? 'move' : 'pointer' }"
          @pointerdown="grab($event, o, i, 'body')"
        />
        <template
          v-for="h in !job.mayChange || o.feature === 'penetration' || !isRead(o) ? [] : handles"
          :key="h.handle"
        >
          <rect
            class="grip edge"
            :x="h.rect(o.rect)[0]"
            :y="h.rect(o.rect)[1]"
            :width="h.rect(o.rect)[2]"
            :height="h.rect(o.rect)[3]"
            :style="{ cursor: h.cursor }"
            :data-handle="h.handle"
            @pointerdown="grab($event, o, i, h.handle)"
          />
        </template>
      </g>
      <WallLines :elevation="elevation" :letter="letter" :stroke="stroke" :course="courseAt" @grab="grabCourse" />
      <g v-if="airShown" class="air" pointer-events="none" data-test="air">
        <g v-for="(a, i) in elevation.air" :key="i" :data-moves="a.moves">
          <rect
            v-for="(r, k) in a.parts"
            :key="k"
            :x="r[0]"
            :y="r[1]"
            :width="r[2]"
            :height="r[3]"
            :fill="a.moves ? 'url(#h-air)' : 'url(#h-still)'"
          />
        </g>
      </g>
      <g class="marks" pointer-events="none">
        <polygon
          v-for="(m, i) in elevation.marks"
          :key="i"
          :points="points(m.part)"
          :fill="m.level === 0 ? 'url(#h-wet)' : 'url(#h-wet-low)'"
          :data-level="m.level"
        />
      </g>
      <g v-if="job.nights" class="tonight" pointer-events="none">
        <rect
          v-for="(p, i) in job.tonight?.places ?? []"
          :key="i"
          :x="p[0]"
          :y="p[1]"
          :width="p[2]"
          :height="p[3]"
          :stroke-width="stroke * 3"
          :stroke-dasharray="`${stroke * 8} ${stroke * 5}`"
        />
      </g>
      <g class="letters" pointer-events="none">
        <text v-for="(shape, i) in lettered" :key="i" :x="shape.label?.[0]" :y="shape.label?.[1]" :font-size="letter">
          {{ shape.letter }}
        </text>
      </g>
      <line
        v-if="job.section && job.shown?.section"
        class="cut-line"
        :x1="job.shown.section.cut[0]"
        :y1="job.shown.section.cut[1]"
        :x2="job.shown.section.cut[2]"
        :y2="job.shown.section.cut[3]"
        :stroke-width="stroke * 3"
      />
      <g v-if="job.currentFinding" class="also" pointer-events="none">
        <circle
          v-for="(p, i) in job.currentFinding.also"
          :key="i"
          :cx="p[0]"
          :cy="p[1]"
          :r="letter * 0.7"
          :stroke-width="stroke * 3"
        />
      </g>
      <g v-if="way" pointer-events="none" data-test="way">
        <path :d="way" class="way under" :stroke-width="stroke * 7" />
        <path :d="way" class="way" :stroke-width="stroke * 3.5" />
        <circle
          v-for="(p, i) in drop.filter((d) => d.enters)"
          :key="i"
          :cx="p.x"
          :cy="p.y"
          :r="stroke * 7"
          class="enters"
          :stroke-width="stroke * 2"
        />
        <path
          class="drop"
          :transform="still ? `translate(${drop[drop.length - 1]?.x} ${drop[drop.length - 1]?.y})` : undefined"
          :d="`M0 ${-letter}C${letter * 0.5} ${-letter * 0.3} ${letter * 0.5} ${letter * 0.4} 0 ${letter * 0.4}C${-letter * 0.5} ${letter * 0.4} ${-letter * 0.5} ${-letter * 0.3} 0 ${-letter}Z`"
        >
          <animateMotion v-if="!still" :key="way" :path="way" dur="3s" repeatCount="indefinite" />
        </path>
      </g>
      <g class="flags">
        <g
          v-for="f in marked"
          :key="f.number"
          :transform="`translate(${f.x} ${f.y})`"
          :class="['flag', f.severity, { on: f.number === job.finding }]"
          role="button"
          tabindex="0"
          :data-flag="f.number"
          :aria-label="`${f.number}: ${f.reason}`"
          :aria-pressed="f.number === job.finding"
          @pointerdown.stop
          @click="tell(f.number)"
          @keydown.enter.stop.prevent="tell(f.number)"
          @keydown.space.stop.prevent="tell(f.number)"
        >
          <circle :r="letter * (f.number === job.finding ? 1.35 : 1)" :stroke-width="stroke * 2" />
          <text :font-size="letter * 1.1">{{ f.number }}</text>
        </g>
      </g>
    </svg>
    <p v-if="elevation && elevation.openings.length === 0" class="empty">{{ s.wall.noOpenings }}</p>
    <PlanKey :seen="seen" @show="fitStretch" />
    <p v-if="airShown" class="legend" data-test="air-legend">
      <span class="moves">↑</span> {{ s.wall.airMoves }}
      <template v-if="elevation?.air.some((a) => !a.moves)"
        ><span class="still">×</span> {{ s.wall.airStill }}</template
      >
    </p>
    <div class="tools no-print">
      <Button
        v-if="elevation?.air.length"
        size="small"
        :severity="air ? undefined : 'secondary'"
        :label="s.wall.air"
        :aria-pressed="air"
        data-test="air-toggle"
        @click="air = !air"
      />
      <Button size="small" severity="secondary" :aria-label="s.wall.zoomIn" @click="zoom(0.75)">+</Button>
      <Button size="small" severity="secondary" :aria-label="s.wall.zoomOut" @click="zoom(1.33)">−</Button>
      <Button
        v-if="(elevation?.key.length ?? 0) > 1"
        size="small"
        severity="secondary"
        :label="s.building.whole"
        data-test="whole-building"
        @click="emit('building')"
      />
      <Button size="small" severity="secondary" :label="s.wall.fitOpening" @click="fitOpening" />
      <Button size="small" severity="secondary" :label="s.wall.fitWall" @click="fitWall" />
    </div>
  </div>
</template>

<style scoped>
.also circle {
  fill: none;
  stroke: var(--leak);
}
.tonight rect {
  fill: var(--glue-soft);
  fill-opacity: 0.45;
  stroke: var(--glue);
}
.legend {
  position: absolute;
  left: 10px;
  top: 10px;
  padding: 4px 10px;
  background: var(--paper);
  border: 1px solid var(--line);
}
.legend .moves {
  color: var(--good);
  font-weight: 700;
}
.legend .still {
  margin-left: 10px;
  color: var(--leak);
  font-weight: 700;
}
.drawing {
  container-type: inline-size;
  position: relative;
  height: 100%;
  min-height: 0;
  background: var(--sheet);
}
svg {
  display: block;
  width: 100%;
  height: 100%;
  touch-action: none;
  user-select: none;
}
text {
  text-anchor: middle;
  dominant-baseline: central;
  fill: var(--ink);
  font-weight: 600;
}
.letters text {
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 0.35em;
  stroke-linejoin: round;
}
.size {
  font-weight: 500;
}
.size.light {
  fill: #fff;
}
.grip.edge {
  fill: transparent;
}
.grip.edge:hover {
  fill: var(--focus);
  opacity: 0.5;
}
.told path {
  stroke: var(--leak);
}
.way {
  fill: none;
  stroke: var(--water);
  stroke-linejoin: round;
  stroke-linecap: round;
}
.way.under {
  stroke: var(--sheet);
}
.enters {
  fill: var(--sheet);
  stroke: var(--leak);
}
.drop {
  fill: var(--water);
  stroke: var(--sheet);
  stroke-width: 0.3;
}
.cut-line {
  stroke: var(--leak);
  stroke-dasharray: 2.4 1 0.4 1;
}
.flag {
  cursor: pointer;
}
.flag circle {
  fill: var(--leak-soft);
  stroke: var(--leak);
}
.flag text {
  fill: var(--leak);
}
.flag.glue circle {
  fill: var(--glue-soft);
  stroke: var(--glue);
  stroke-dasharray: 0.8 0.4;
}
.flag.glue text {
  fill: var(--glue);
}
.tools {
  position: absolute;
  right: 10px;
  bottom: 10px;
  left: 10px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  justify-content: flex-end;
  pointer-events: none;
}
.tools > * {
  pointer-events: auto;
  white-space: nowrap;
}
.empty {
  position: absolute;
  inset: auto 0 40%;
  text-align: center;
  font-weight: 600;
}
</style>
