<script setup lang="ts">
import { computed, ref } from "vue";
import type { Elevation } from "../api/client";
import { boxAt, frameOf, openingAt, type Box } from "../lib/repair";
import { s } from "../strings";
import WallShapes from "./WallShapes.vue";

/** The wall, to point at what was found on it. */
const props = defineProps<{
  elevation: Elevation;
  along: number[] | null;
  size: [number, number];
  /** A window or door is pointed at as a whole. */
  whole?: boolean;
}>();
const emit = defineEmits<{ opening: [id: string] }>();
const box = defineModel<Box | null>({ required: true });
const frame = computed(() => frameOf(props.elevation, props.along));
const unit = computed(() => Math.max(frame.value[2], frame.value[3]) / 100);
/** What reaches into the frame. */
const shown = computed(() => {
  const [x, , w] = frame.value;
  const into = (part: number[][]) => {
    const xs = part.map((c) => c[0] ?? 0);
    return Math.max(...xs) > x && Math.min(...xs) < x + w;
  };
  return props.elevation.shapes.filter((shape) => shape.parts.some(into));
});
const svg = ref<SVGSVGElement | null>(null);
function point(e: MouseEvent) {
  const matrix = svg.value?.getScreenCTM()?.inverse();
  if (!matrix) return;
  const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
  if (props.whole) return choose([at.x, at.y]);
  box.value = boxAt(props.elevation, [at.x, at.y], props.size);
}
function choose(at: [number, number]) {
  const o = openingAt(props.elevation, at);
  if (!o) return;
  emit("opening", o.id);
  box.value = [o.rect[0] ?? 0, o.rect[1] ?? 0, o.rect[2] ?? 0, o.rect[3] ?? 0];
}
/** By keys: Enter takes the next window or door. */
function next() {
  const all = props.elevation.openings.filter((o) => o.feature === "opening");
  const now = box.value;
  const here = all.findIndex((o) => o.rect[0] === now?.[0] && o.rect[1] === now?.[1]);
  const o = all[(here + 1) % Math.max(1, all.length)];
  if (o) choose([(o.rect[0] ?? 0) + 1, (o.rect[1] ?? 0) + 1]);
}
function move(e: KeyboardEvent) {
  if (props.whole && e.key === "Enter") return next();
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  const [x, y, w, h] = frame.value;
  const [bx, by_, bw, bh] = box.value ?? [x + w / 2, y + h / 2, 0, 0];
  const far = e.shiftKey ? 6 : 1;
  const middle: [number, number] = [bx + bw / 2 + (by[0] ?? 0) * far, by_ + bh / 2 + (by[1] ?? 0) * far];
  box.value = boxAt(props.elevation, middle, props.size);
}
/** A ring round what is small, so that it is seen. */
const ring = computed(() => {
  if (!box.value || props.whole) return null;
  const [x, y, w, h] = box.value;
  return { x: x + w / 2, y: y + h / 2, r: Math.max(w, h) / 2 + unit.value * 3 };
});
</script>

<template>
  <svg
    ref="svg"
    class="pick"
    :viewBox="frame.join(' ')"
    tabindex="0"
    role="application"
    :aria-label="s.repair.place"
    data-test="found-pick"
    @click="point"
    @keydown="move"
  >
    <rect :x="0" :y="0" :width="elevation.width" :height="elevation.height" class="ground" />
    <WallShapes :shapes="shown" :edge="unit * 0.25" />
    <g v-for="o in elevation.openings" :key="o.id">
      <rect
        :x="o.rect[0]"
        :y="o.rect[1]"
        :width="o.rect[2]"
        :height="o.rect[3]"
        :class="['hole', o.state]"
        :stroke-width="unit * 0.5"
      />
      <text
        :x="(o.rect[0] ?? 0) + (o.rect[2] ?? 0) / 2"
        :y="(o.rect[1] ?? 0) + (o.rect[3] ?? 0) / 2"
        :font-size="unit * 4"
      >
        {{ o.id }}
      </text>
    </g>
    <template v-if="ring">
      <circle :cx="ring.x" :cy="ring.y" :r="ring.r" class="ring" :stroke-width="unit * 1.6" />
      <circle :cx="ring.x" :cy="ring.y" :r="ring.r" class="ring in" :stroke-width="unit * 0.7" />
    </template>
    <template v-if="box">
      <rect :x="box[0]" :y="box[1]" :width="box[2]" :height="box[3]" class="box" :stroke-width="unit * 0.5" />
    </template>
  </svg>
</template>

<style scoped>
.pick {
  display: block;
  width: 100%;
  max-height: 46vh;
  background: var(--wall);
  border: 1.5px solid var(--ink);
  cursor: crosshair;
  touch-action: manipulation;
}
.pick:focus-visible {
  outline: 3px solid var(--focus);
  outline-offset: 2px;
}
.ground {
  fill: var(--wall);
}
.hole {
  fill: var(--sheet);
  fill-opacity: 0.75;
  stroke: var(--ink);
}
.hole.set {
  fill: var(--f-unit);
}
text {
  text-anchor: middle;
  dominant-baseline: central;
  font-weight: 650;
  fill: var(--ink);
  pointer-events: none;
}
.ring {
  fill: none;
  stroke: var(--sheet);
}
.ring.in {
  stroke: var(--leak);
}
.box {
  fill: var(--leak);
  fill-opacity: 0.35;
  stroke: var(--leak);
}
</style>
