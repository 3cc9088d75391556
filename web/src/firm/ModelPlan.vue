<script setup lang="ts">
import { computed } from "vue";
import type { FromModel } from "../api/client";
import { s } from "../strings";

/** The outer walls of a building model from above, north up, with what stands in them. */
const props = defineProps<{ walls: FromModel["walls"] }>();
type Point = number[];
const x = (p: Point) => p[0] ?? 0;
/** North is up on paper, and down on a screen. */
const y = (p: Point) => -(p[1] ?? 0);
const frame = computed(() => {
  const points = props.walls.flatMap((w) => w.line);
  const [left, right] = [Math.min(...points.map(x)), Math.max(...points.map(x))];
  const [top, bottom] = [Math.min(...points.map(y)), Math.max(...points.map(y))];
  const room = Math.max(right - left, bottom - top) * 0.12 + 12;
  return { x: left - room, y: top - room, w: right - left + 2 * room, h: bottom - top + 2 * room };
});
/** Letters and strokes are as large on the screen whatever the building measures. */
const unit = computed(() => frame.value.w / 100);
/** Just outside the middle of a line, the outside being to the right of who walks along it. */
function beside([a, b]: Point[], off: number): { x: number; y: number } {
  if (!a || !b) return { x: 0, y: 0 };
  const [dx, dy] = [x(b) - x(a), y(b) - y(a)];
  const l = Math.hypot(dx, dy) || 1;
  return { x: (x(a) + x(b)) / 2 - (dy / l) * off, y: (y(a) + y(b)) / 2 + (dx / l) * off };
}
</script>

<template>
  <figure>
    <svg :viewBox="`${frame.x} ${frame.y} ${frame.w} ${frame.h}`" role="img" :aria-label="s.fromModel.picture">
      <g v-for="(w, n) in walls" :key="n">
        <line
          :x1="x(w.line[0] ?? [])"
          :y1="y(w.line[0] ?? [])"
          :x2="x(w.line[1] ?? [])"
          :y2="y(w.line[1] ?? [])"
          class="wall"
          :stroke-width="unit * 1.1"
        />
        <text v-bind="beside(w.line, unit * 5)" :font-size="unit * 2.6" class="name">{{ w.name }}</text>
        <g v-for="o in w.openings" :key="o.id">
          <line
            :x1="x(o.line[0] ?? [])"
            :y1="y(o.line[0] ?? [])"
            :x2="x(o.line[1] ?? [])"
            :y2="y(o.line[1] ?? [])"
            :class="o.fills"
            :stroke-width="unit * 1.1"
          />
          <text v-bind="beside(o.line, -unit * 2.4)" :font-size="unit * 2.2" class="id">{{ o.id }}</text>
        </g>
      </g>
    </svg>
    <figcaption class="quiet">{{ s.fromModel.from }}</figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
figure svg {
  width: 100%;
  max-height: 560px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.wall {
  stroke: var(--ink);
  stroke-linecap: square;
}
.window {
  stroke: var(--water);
}
.door {
  stroke: var(--glue);
}
.nothing {
  stroke: var(--ink-soft);
}
figure text {
  fill: var(--ink);
  text-anchor: middle;
  dominant-baseline: middle;
}
.name {
  font-weight: 650;
}
</style>
