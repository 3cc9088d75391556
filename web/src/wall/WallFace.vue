<script setup lang="ts">
import { computed } from "vue";
import type { Place, PlaceBy, WallOf } from "../lib/building";
import { MARKS, kindOf } from "../lib/verdict";
import { shortDay } from "../lib/calendar";
import { s } from "../strings";

/** One wall of the building as it stands at this moment: what covers it, its places with what is asked of them, what tonight leaves open. */
const props = defineProps<{
  wall: WallOf;
  /** Points to an inch. */
  scale: number;
  by: PlaceBy;
  /** What tonight leaves open, on the unfolded elevation: left, top, width, height. */
  open: number[][];
  chosen: string | null;
}>();
const emit = defineEmits<{ place: [id: string]; look: [place: Place | null] }>();

const from = computed(() => props.wall.along[0]);
const length = computed(() => props.wall.along[1] - from.value);
const openHere = computed(() =>
  props.open.filter((r) => (r[0] ?? 0) < props.wall.along[1] && (r[0] ?? 0) + (r[2] ?? 0) > from.value),
);

/** The least a place is drawn, so that a pipe can be seen and pressed, in points. */
const LEAST = 9;
const shown = computed(() =>
  props.wall.places.map((place) => {
    const [x = 0, y = 0, w = 0, h = 0] = place.opening.rect;
    const [width, height] = [Math.max(w, LEAST / props.scale), Math.max(h, LEAST / props.scale)];
    const kind = {
      verdict: place.state === 4 ? "unfinished" : kindOf(place.state),
      phase: place.next ? `phase-${place.next.phase}` : "finished",
      trade: place.next ? `trade-${place.next.trade}` : "finished",
      day: place.next ? "day" : "finished",
      tonight: place.opening.state,
    }[props.by];
    const sign = {
      verdict: MARKS[place.state] ?? "",
      phase: place.next ? `${place.done}/${place.all}` : "✓",
      trade: place.next ? s.filter.trades[place.next.trade].charAt(0) : "✓",
      day: place.next ? (place.day === null ? "" : shortDay(place.day)) : "✓",
      tonight: "",
    }[props.by];
    return { place, x: x + (w - width) / 2, y: y + (h - height) / 2, width, height, kind, sign };
  }),
);
/** Letters of 11 points, whatever the scale. */
const letter = computed(() => 11 / props.scale);
const fits = (text: string, width: number) => text.length * 6.4 + 4 <= width * props.scale;
const what = (p: Place) =>
  `${p.id} ${p.name}. ${s.verdict.says[p.state]}. ${s.building.done(p.done, p.all)}${p.next ? ` ${s.building.next(p.next.title)}` : ""}`;
function go(e: KeyboardEvent) {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
  if (!by) return;
  const at = e.currentTarget as SVGElement;
  const all = [...(at.ownerSVGElement?.querySelectorAll<SVGElement>("[data-face-place]") ?? [])];
  const to = all[all.indexOf(at) + by];
  if (!to) return;
  e.preventDefault();
  e.stopPropagation();
  to.focus();
}
</script>

<template>
  <svg
    class="face"
    :viewBox="`${from} ${wall.top} ${length} ${wall.foot - wall.top}`"
    :style="{ width: `${length * scale}px`, height: `${(wall.foot - wall.top) * scale}px` }"
    role="group"
    :aria-label="wall.name"
  >
    <polygon :points="wall.outline" class="ground" :stroke-width="1.5 / scale" />
    <clipPath :id="`face-${from}`"><polygon :points="wall.outline" /></clipPath>
    <g :clip-path="`url(#face-${from})`">
      <path v-if="wall.cover" :d="wall.cover" class="cover" />
      <line
        v-for="y in wall.levels"
        :key="y"
        :x1="from"
        :x2="from + length"
        :y1="y"
        :y2="y"
        class="level"
        :stroke-width="0.8 / scale"
      />
      <rect
        v-for="(r, i) in openHere"
        :key="i"
        :x="r[0]"
        :y="r[1]"
        :width="r[2]"
        :height="r[3]"
        class="left-open"
        :stroke-width="2 / scale"
        :stroke-dasharray="`${6 / scale} ${4 / scale}`"
      />
    </g>
    <polygon :points="wall.outline" class="edge" :stroke-width="1.5 / scale" />
    <g
      v-for="(p, i) in shown"
      :key="p.place.id"
      v-memo="[
        i,
        p.x,
        p.y,
        p.width,
        p.height,
        p.kind,
        p.sign,
        scale,
        what(p.place),
        p.place.opening.state,
        p.place.day,
        chosen === p.place.id,
      ]"
      role="button"
      :tabindex="i === 0 ? 0 : -1"
      :aria-label="what(p.place)"
      :data-face-place="p.place.id"
      :class="['place', p.kind, { chosen: chosen === p.place.id, covered: p.place.opening.state === 'covered' }]"
      @click.stop="emit('place', p.place.id)"
      @keydown.enter.stop.prevent="emit('place', p.place.id)"
      @keydown.space.stop.prevent="emit('place', p.place.id)"
      @keydown="go"
      @pointerenter="emit('look', p.place)"
      @pointerleave="emit('look', null)"
      @focus="emit('look', p.place)"
    >
      <rect :x="p.x" :y="p.y" :width="p.width" :height="p.height" :stroke-width="1.2 / scale" />
      <text
        v-if="fits(p.place.id, p.width)"
        :x="p.x + p.width / 2"
        :y="p.y + p.height / 2 - (p.sign && p.height * scale > 30 ? letter * 0.65 : 0)"
        :font-size="letter"
      >
        {{ p.place.id }}
      </text>
      <text
        v-if="p.sign && p.height * scale > (fits(p.place.id, p.width) ? 30 : 10) && fits(p.sign, p.width + 3 / scale)"
        :x="p.x + p.width / 2"
        :y="p.y + p.height / 2 + (fits(p.place.id, p.width) ? letter * 0.75 : 0)"
        :font-size="letter"
        class="sign"
      >
        {{ p.sign }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
.face {
  display: block;
  overflow: visible;
}
.ground {
  fill: var(--wall);
}
.edge {
  fill: none;
  stroke: var(--ink);
}
.cover {
  fill: var(--f-barrier);
}
.level {
  stroke: var(--ink-soft);
}
.left-open {
  fill: var(--glue-soft);
  fill-opacity: 0.55;
  stroke: var(--glue);
}
.place {
  cursor: pointer;
  outline: none;
}
.place rect {
  fill: var(--sheet);
  stroke: var(--ink);
}
.place.covered rect {
  stroke-dasharray: 3 2;
}
.place:focus-visible rect,
.place:hover rect,
.place.chosen rect {
  stroke: var(--focus);
  stroke-width: 4px;
  vector-effect: non-scaling-stroke;
}
text {
  text-anchor: middle;
  dominant-baseline: central;
  font-weight: 600;
  fill: var(--ink);
  pointer-events: none;
}
.good rect,
.finished rect {
  fill: var(--good-soft);
}
.good .sign,
.finished .sign {
  fill: var(--good);
}
.glue rect {
  fill: var(--glue-soft);
}
.glue .sign {
  fill: var(--glue);
}
.bad rect {
  fill: var(--leak-soft);
}
.bad .sign {
  fill: var(--leak);
}
.phase-survey rect,
.phase-barrier rect,
.trade-barrier rect {
  fill: var(--f-barrier);
}
.phase-preparation rect {
  fill: var(--f-pan);
}
.phase-unit rect,
.trade-window rect {
  fill: var(--water-soft);
}
.phase-flashing rect {
  fill: var(--f-shape);
}
.phase-inside rect {
  fill: var(--f-lining);
}
.phase-check rect,
.trade-lead rect {
  fill: var(--f-patch);
}
.phase-cover rect,
.trade-cladding rect {
  fill: var(--f-jamb);
}
.day rect {
  fill: var(--f-head);
}
.place.open rect {
  fill: var(--open);
}
.place.open text {
  fill: #fff;
}
.place.set rect {
  fill: var(--f-unit);
}
</style>
