<script setup lang="ts">
import { computed } from "vue";
import type { Exploded } from "../api/client";
import { s } from "../strings";

const props = defineProps<{
  exploded: Exploded | null;
}>();
const corners = (face: number[][]) => face.map((p) => p.join(",")).join(" ");
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
    <g v-for="(p, i) in exploded.pieces" :key="i" :data-lift="p.lift">
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
    <g v-for="(p, i) in exploded.pieces" :key="`t${i}`" class="letters">
      <text :x="p.label[0]" :y="p.label[1]" :font-size="size / 34" :stroke-width="size / 220">{{ p.letter }}</text>
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
