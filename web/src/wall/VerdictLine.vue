<script setup lang="ts">
import { computed } from "vue";
import { verdictOf } from "../lib/verdict";
import { useJob } from "../stores/job";

/** The verdict on the wall as it stands. */
const job = useJob();
const verdict = computed(() => (job.view ? verdictOf(job.view) : null));
</script>

<template>
  <p v-if="verdict" class="verdict" :class="verdict.kind" data-test="verdict" aria-live="polite">
    <b>{{ verdict.text }}</b> · {{ verdict.more }}
  </p>
</template>

<style scoped>
.verdict {
  margin-top: 6px;
  padding: 4px 10px;
  border-left: 6px solid var(--line);
}
.verdict.good {
  color: var(--good);
  background: var(--good-soft);
  border-color: var(--good);
}
.verdict.bad {
  color: var(--leak);
  background: var(--leak-soft);
  border-color: var(--leak);
}
</style>
