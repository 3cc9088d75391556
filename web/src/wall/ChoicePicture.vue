<script setup lang="ts">
import type { Choices } from "../api/client";
import BuiltSection from "./BuiltSection.vue";
import ExplodedDrawing from "./ExplodedDrawing.vue";

/** An answer as a picture: the wall made so in section, or the pieces by which it differs drawn apart. Its room is kept while it is on its way. */
defineProps<{
  picture?: Choices["choices"][number];
  /** Pieces that stand out. */
  marked?: string[];
}>();
</script>

<template>
  <span class="picture">
    <BuiltSection v-if="picture?.section" bare small :section="picture.section" :marked="marked" />
    <ExplodedDrawing v-else-if="picture?.apart?.pieces.length" small :exploded="picture.apart" />
  </span>
</template>

<style scoped>
.picture {
  display: flex;
  height: 190px;
  pointer-events: none;
}
.picture :deep(svg) {
  width: 100%;
  height: 190px;
}
</style>
