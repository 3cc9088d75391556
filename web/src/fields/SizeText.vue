<script setup lang="ts">
import { computed } from "vue";
import { sized } from "../lib/sized";

/** A text whose fractions are set as fractions. In a drawing its parts are spans of a text there. */
const props = defineProps<{ text: string; drawn?: boolean }>();
const parts = computed(() => sized(props.text));
</script>

<template>
  <component
    :is="drawn ? 'tspan' : 'span'"
    v-for="(p, i) in parts"
    :key="i"
    :class="p.fraction ? 'fraction' : undefined"
    >{{ p.text }}</component
  >
</template>

<style scoped>
.fraction {
  font-variant-numeric: diagonal-fractions;
}
</style>
