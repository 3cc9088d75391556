<script setup lang="ts">
import { computed } from "vue";
import type { BuildUp } from "../api/client";
import { s } from "../strings";

/** The layers of a wall from the stud to the face, cut level: inside at the left, each at its thickness, thin ones drawn thicker. */
const props = defineProps<{ buildUp: BuildUp; named: boolean }>();

const WIDE = 340;
const HIGH = 96;
const THINNEST = 3;
const FURRING_WIDE = 26;

const layers = computed(() => {
  // The stud is cut off: its depth says nothing here.
  const own = props.buildUp.layers.map((l) => ({ ...l, drawn: l.of === "framing" ? 1.4 : l.thick_in }));
  const scale = (WIDE - own.length * THINNEST) / own.reduce((sum, l) => sum + l.drawn, 0);
  let left = 0;
  return own.map((l, i) => {
    const wide = Math.max(THINNEST, l.drawn * scale);
    const at = { ...l, number: i + 1, left, wide };
    left += wide;
    return at;
  });
});
const all = computed(() => layers.value.reduce((sum, l) => sum + l.wide, 0));
const label = computed(() => props.buildUp.layers.map((l) => `${l.name} ${l.thick_says}`).join(", "));
</script>

<template>
  <figure class="build-up" data-test="build-up">
    <figcaption v-if="named">{{ buildUp.walls.join(", ") }}</figcaption>
    <svg :viewBox="`0 0 ${all} ${HIGH + 18}`" role="img" :aria-label="label">
      <g v-for="l in layers" :key="l.id" :class="l.of">
        <template v-if="l.of === 'furring' && l.id === 'battens'">
          <rect class="gap" :x="l.left" y="0" :width="l.wide" :height="HIGH" />
          <rect class="batten" :x="l.left" y="8" :width="l.wide" :height="FURRING_WIDE" />
          <rect class="batten" :x="l.left" :y="HIGH - 8 - FURRING_WIDE" :width="l.wide" :height="FURRING_WIDE" />
        </template>
        <template v-else-if="l.of === 'framing'">
          <rect class="gap" :x="l.left" y="0" :width="l.wide" :height="HIGH" />
          <rect class="stud" :x="l.left" y="34" :width="l.wide" height="28" />
          <path class="stud" :d="`M ${l.left} 34 L ${l.left + l.wide} 62 M ${l.left} 62 L ${l.left + l.wide} 34`" />
        </template>
        <rect v-else :x="l.left" y="0" :width="l.wide" :height="HIGH" />
        <text :x="l.left + l.wide / 2" :y="HIGH + 14">{{ l.number }}</text>
      </g>
    </svg>
    <ol>
      <li v-for="l in layers" :key="l.id">
        <span>{{ l.name }}</span> <b>{{ l.of === "barrier" ? s.made.thin : l.thick_says }}</b>
      </li>
    </ol>
    <p v-for="line in buildUp.says" :key="line" class="quiet">{{ line }}</p>
  </figure>
</template>

<style scoped>
.build-up {
  margin: 8px 0 20px;
}
figcaption {
  font-weight: 600;
  margin-bottom: 4px;
}
svg {
  width: 100%;
  max-height: 150px;
  background: var(--paper);
  border: 1px solid var(--line);
}
rect,
path {
  stroke: var(--ink);
  stroke-width: 0.8;
  fill: none;
}
.sheathing rect {
  fill: var(--f-shape);
}
.barrier rect {
  fill: var(--ink);
  stroke: none;
}
.boards rect {
  fill: var(--f-patch);
}
.furring > rect {
  fill: none;
  stroke-dasharray: 2 2;
}
.furring .batten,
.framing .stud {
  fill: var(--f-shape);
  stroke-dasharray: none;
}
.furring .gap,
.framing .gap {
  fill: none;
  stroke: none;
}
.cladding rect {
  fill: var(--f-cap);
}
text {
  font-size: 12px;
  text-anchor: middle;
  fill: var(--ink);
}
ol {
  margin: 6px 0;
  padding-left: 22px;
  font-size: 0.88rem;
}
li b {
  float: right;
  font-variant-numeric: tabular-nums;
}
p {
  margin: 2px 0;
  font-size: 0.85rem;
}
</style>
