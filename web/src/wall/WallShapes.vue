<script setup lang="ts">
import type { Shape } from "../api/client";
import { areas, lines } from "../lib/figures";

/** Pieces of a wall in their lap order, each with its hatch and edges. */
defineProps<{ shapes: Shape[]; edge: number }>();
</script>

<template>
  <g v-for="(shape, i) in shapes" :key="i">
    <path :d="areas(shape.parts)" :fill="`url(#h-${shape.role})`" />
    <path :d="lines(shape.edges)" class="edge" :stroke-width="edge" />
  </g>
</template>

<style scoped>
.edge {
  fill: none;
  stroke: var(--ink);
}
</style>
