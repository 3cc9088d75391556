<script setup lang="ts">
import { computed } from "vue";
import type { Elevation, Shape } from "../api/client";
import { areas, lines } from "../lib/figures";
import { s } from "../strings";

/** The wall of a scene: its pieces can be touched, and the drop shows where the water went. */
const props = defineProps<{
  elevation: Elevation;
  marked?: string[];
  touch?: boolean;
  drop?: { x: number; y: number; behind: boolean }[];
}>();
const emit = defineEmits<{ piece: [shape: Shape]; bare: [] }>();
const ROOM = 6;
const frame = computed(() => [-ROOM, -ROOM, props.elevation.width + 2 * ROOM, props.elevation.height + 2 * ROOM]);
const unit = computed(() => Math.max(frame.value[2] ?? 1, frame.value[3] ?? 1) / 100);
/** More shapes than this cast no shadows: a browser draws each by itself. */
const MOST_SHADOWS = 80;
/** What lies over something casts a shadow on it. */
const shadow = computed(() =>
  props.elevation.shapes.length > MOST_SHADOWS
    ? undefined
    : `drop-shadow(0 ${unit.value * 0.25}px ${unit.value * 0.5}px rgb(0 0 0 / 0.5))`,
);
const line = computed(() => (props.drop ?? []).map((p) => `${p.x},${p.y}`).join(" "));
const lettered = computed(() => props.elevation.shapes.filter((x) => x.label && x.letter));
const end = computed(() => props.drop?.at(-1));
</script>

<template>
  <svg class="wall" :viewBox="frame.join(' ')" role="img" :aria-label="s.practice.wall" data-test="practice-wall">
    <rect
      x="0"
      y="0"
      :width="elevation.width"
      :height="elevation.height"
      class="ground"
      :stroke-width="unit * 0.3"
      @click="touch && emit('bare')"
    />
    <g
      v-for="(shape, i) in elevation.shapes"
      :key="i"
      :class="{ touch, marked: marked?.includes(shape.piece) }"
      :data-piece="touch ? shape.piece : undefined"
      :style="{ filter: shadow }"
      @click="touch && emit('piece', shape)"
    >
      <title v-if="touch">{{ shape.name }}</title>
      <path :d="areas(shape.parts)" :fill="`url(#h-${shape.role})`" class="area" />
      <path :d="lines(shape.edges)" class="edge" :stroke-width="unit * (marked?.includes(shape.piece) ? 0.9 : 0.3)" />
    </g>
    <g v-for="o in elevation.openings" :key="o.id" class="opening">
      <rect
        :x="o.rect[0]"
        :y="o.rect[1]"
        :width="o.rect[2]"
        :height="o.rect[3]"
        :class="o.state"
        :stroke-width="unit * 0.4"
        :stroke-dasharray="o.state === 'covered' ? `${unit * 2} ${unit}` : undefined"
      />
      <rect
        v-if="o.glass"
        :x="o.glass[0]"
        :y="o.glass[1]"
        :width="o.glass[2]"
        :height="o.glass[3]"
        class="glass"
        :stroke-width="unit * 0.3"
      />
    </g>
    <g class="letters" aria-hidden="true">
      <text
        v-for="(shape, i) in lettered"
        :key="i"
        :x="shape.label?.[0]"
        :y="shape.label?.[1]"
        :font-size="unit * 3"
        :stroke-width="unit * 0.7"
      >
        {{ shape.letter }}
      </text>
    </g>
    <template v-if="line">
      <polyline :points="line" class="halo" :stroke-width="unit * 2.2" />
      <polyline :points="line" class="drop" :stroke-width="unit * 1" />
      <circle v-if="end" :cx="end.x" :cy="end.y" :r="unit * 1.8" class="end" />
    </template>
  </svg>
</template>

<style scoped>
.wall {
  display: block;
  width: 100%;
  max-height: 62vh;
  background: var(--wall);
  border: 1px solid var(--line);
}
.ground {
  fill: var(--wall);
  stroke: var(--ink);
}
.edge {
  fill: none;
  stroke: var(--ink);
}
.touch {
  cursor: pointer;
}
.touch:hover .area {
  opacity: 0.6;
}
.marked .edge {
  stroke: var(--leak);
}
.opening {
  pointer-events: none;
}
.opening rect {
  fill: none;
  stroke: var(--ink);
}
.opening .open {
  fill: var(--open);
  fill-opacity: 0.6;
}
.opening .glass {
  fill: var(--f-unit);
}
.letters text {
  font-weight: 650;
  text-anchor: middle;
  dominant-baseline: central;
  paint-order: stroke;
  pointer-events: none;
  fill: var(--ink);
  stroke: var(--sheet);
}
.drop {
  fill: none;
  stroke: var(--water);
}
.halo {
  fill: none;
  stroke: var(--sheet);
  stroke-opacity: 0.85;
}
.end {
  fill: var(--water);
}
</style>
