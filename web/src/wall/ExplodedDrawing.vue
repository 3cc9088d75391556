<script setup lang="ts">
import { computed } from "vue";
import type { Exploded } from "../api/client";
import { s } from "../strings";

const props = defineProps<{
  exploded: Exploded | null;
  chosen?: string | null;
  /** Pieces that stand out; where it is said which, pieces are touched and not steps. */
  marked?: string[];
  /** Drawn without letters: small, beside others of its kind. */
  small?: boolean;
}>();
const emit = defineEmits<{ step: [id: string]; piece: [id: string] }>();
type Apart = Exploded["pieces"][number];
const on = (p: Apart) => p.step_id === props.chosen || props.marked?.includes(p.piece) === true;
const touch = (p: Apart) => (props.marked ? emit("piece", p.piece) : emit("step", p.step_id));
const corners = (face: number[][]) => face.map((p) => p.join(",")).join(" ");
const line = (points: number[][]) => points.map((p, i) => `${i ? "L" : "M"}${p[0]} ${p[1]}`).join("");
const size = computed(() => Math.max(props.exploded?.frame[2] ?? 1, props.exploded?.frame[3] ?? 1));
const stroke = computed(() => size.value / 700);
</script>

<template>
  <svg
    v-if="exploded && exploded.pieces.length"
    :viewBox="exploded.frame.join(' ')"
    role="img"
    :aria-label="s.apart.title"
    data-test="exploded"
  >
    <polygon
      v-for="(g, i) in exploded.ground"
      :key="`w${i}`"
      :points="corners(g)"
      class="ground"
      :stroke-width="stroke"
    />
    <g
      v-for="(p, i) in exploded.pieces"
      :key="i"
      :class="{ on: on(p) }"
      :data-lift="p.lift"
      :data-apart="p.piece"
      @click="touch(p)"
    >
      <title>{{ p.name }} · {{ p.step }}</title>
      <polygon
        v-for="(face, k) in p.faces"
        :key="k"
        :points="corners(face)"
        :fill="`url(#h-${p.role})`"
        fill-opacity=".9"
        stroke="var(--ink)"
        :stroke-width="stroke"
      />
      <line
        v-for="(f, k) in p.folds"
        :key="`f${k}`"
        class="fold"
        :x1="f[0]?.[0]"
        :y1="f[0]?.[1]"
        :x2="f[1]?.[0]"
        :y2="f[1]?.[1]"
        :stroke-width="stroke * 2"
        :stroke-dasharray="`${stroke * 7} ${stroke * 5}`"
      />
    </g>
    <g
      v-for="(p, i) in small ? [] : exploded.pieces"
      :key="`t${i}`"
      :class="['letters', { on: on(p) }]"
      @click="touch(p)"
    >
      <path v-if="on(p)" :d="line(p.thread)" class="thread" :stroke-width="stroke * 2" />
      <path :d="line(p.leader)" class="leader" :stroke-width="stroke * 0.7" />
      <circle :cx="p.leader[0]?.[0]" :cy="p.leader[0]?.[1]" :r="stroke * 2.4" />
      <text :x="p.leader[2]?.[0]" :y="p.leader[2]?.[1]" :font-size="size / 36" :stroke-width="size / 220">
        {{ p.letter }}
      </text>
    </g>
  </svg>
  <p v-else class="none">{{ s.apart.none }}</p>
</template>

<style scoped>
svg {
  flex: 1;
  min-height: 0;
  width: 100%;
  background: var(--sheet);
}
.ground {
  fill: var(--wall);
  stroke: var(--ink-soft);
}
g {
  cursor: pointer;
}
.on polygon {
  stroke: var(--leak);
}
.leader {
  fill: none;
  stroke: var(--ink-soft);
}
.thread {
  fill: none;
  stroke: var(--leak);
  stroke-dasharray: 2 2;
}
circle {
  fill: var(--ink);
}
.on text {
  fill: var(--leak);
}
.fold {
  stroke: var(--leak);
}
text {
  text-anchor: middle;
  dominant-baseline: central;
  font-weight: 650;
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--sheet);
}
.none {
  margin: auto;
}
</style>
