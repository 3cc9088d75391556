<script setup lang="ts">
import Button from "primevue/button";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** How many actions are done: one back, one on, play, or pulled to any. */
defineProps<{ playing: boolean }>();
const emit = defineEmits<{ go: [n: number]; play: [] }>();
const job = useJob();
</script>

<template>
  <div v-if="job.view" class="row">
    <Button
      size="small"
      severity="secondary"
      :aria-label="s.rail.back"
      :disabled="job.view.done === 0"
      @click="emit('go', job.view.done - 1)"
      >◀</Button
    >
    <Button size="small" :label="playing ? s.rail.pause : s.rail.play" data-test="play" @click="emit('play')" />
    <Button
      size="small"
      severity="secondary"
      :aria-label="s.rail.next"
      :disabled="job.view.done === job.view.total"
      @click="emit('go', job.view.done + 1)"
      >▶</Button
    >
    <input
      type="range"
      min="0"
      :max="job.view.total"
      :value="job.view.done"
      :aria-label="s.rail.scrub"
      :aria-valuetext="s.rail.of(job.view.done, job.view.total)"
      data-test="scrub"
      @input="emit('go', Number(($event.target as HTMLInputElement).value))"
    />
    <span class="count" data-test="count">{{ s.rail.of(job.view.done, job.view.total) }}</span>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.row input[type="range"] {
  flex: 1;
  min-width: 60px;
  height: 28px;
  accent-color: var(--shell);
}
.kame-dark .row input[type="range"] {
  accent-color: var(--good);
}
.count {
  white-space: nowrap;
  font-size: 0.88rem;
}
@media (max-width: 760px) {
  .row :deep(button) {
    min-height: 44px;
    min-width: 44px;
  }
  .count {
    display: none;
  }
}
</style>
