<script setup lang="ts">
import { computed } from "vue";
import type { Finding } from "../api/client";
import { s } from "../strings";

/** The worst that is found somewhere, as a mark that is told apart without colour. */
const props = defineProps<{ worst: Finding["severity"] | null }>();
const kind = computed(() =>
  props.worst === null || props.worst === "note" ? "good" : props.worst === "glue" ? "glue" : "bad",
);
const title = computed(() => (props.worst ? s.findings.severity[props.worst] : s.verdict.nothing));
</script>

<template>
  <span class="mark" :class="kind" role="img" :aria-label="title" :title="title">{{
    kind === "good" ? "●" : kind === "glue" ? "◐" : "▲"
  }}</span>
</template>

<style scoped>
.mark {
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
