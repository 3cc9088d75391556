<script setup lang="ts">
import { computed } from "vue";
import { MARKS, kindOf } from "../lib/verdict";
import { s } from "../strings";

/** One of the six things that are said of a wall, as a mark that is told apart without colour. */
const props = defineProps<{ state: number }>();
const title = computed(() => s.verdict.says[props.state] ?? "");
</script>

<template>
  <span class="mark" :class="kindOf(state)" role="img" :aria-label="title" :title="title">{{ MARKS[state] }}</span>
</template>

<style scoped>
.mark {
  display: inline-block;
  width: 18px;
  text-align: center;
}
.good {
  color: var(--good);
}
.glue {
  color: var(--glue);
}
.bad {
  color: var(--leak);
}
</style>
