<script setup lang="ts">
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import type { Weather } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** What is shown of the wall: water, sections, nights. */
const emit = defineEmits<{ rain: [weather: Weather]; section: []; nights: [] }>();
const job = useJob();
/** What was done by the record, or the plan again. */
function toggleBuilt() {
  job.built = !job.built;
  void job.refresh();
}
const weathers: { label: string; value: Weather }[] = [
  { label: s.weather.dry, value: "dry" },
  { label: s.weather.rain, value: "rain" },
  { label: s.weather.lost, value: "lost" },
];
</script>

<template>
  <div class="tools">
    <SelectButton
      :model-value="job.weather"
      :options="weathers"
      option-label="label"
      option-value="value"
      :allow-empty="false"
      size="small"
      :aria-label="s.weather.label"
      data-test="weather"
      @update:model-value="(w: Weather | null) => w && emit('rain', w)"
    />
    <Button
      size="small"
      text
      severity="secondary"
      :label="s.section.show"
      :aria-pressed="job.section !== null || job.apart"
      data-test="section-toggle"
      @click="emit('section')"
    />
    <Button
      size="small"
      text
      severity="secondary"
      :label="s.night.show"
      :aria-pressed="job.nights !== null"
      data-test="tonight"
      @click="emit('nights')"
    />
    <Button
      size="small"
      text
      severity="secondary"
      :label="s.site.asBuilt"
      :title="s.site.asBuiltHelp"
      :aria-pressed="job.built"
      data-test="as-built"
      @click="toggleBuilt"
    />
    <RouterLink
      v-if="job.state"
      class="found"
      :to="{ name: 'repair', params: { id: job.state.id } }"
      :title="s.repair.openHelp"
      data-test="found-something"
      >{{ s.repair.open }}</RouterLink
    >
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  min-height: 44px;
  padding: 4px 10px;
  border-bottom: 1px solid var(--line);
}
.found {
  padding: 6px 10px;
  color: var(--ink-soft);
  text-decoration: none;
  font-size: 0.875rem;
  font-weight: 500;
}
.found:hover {
  color: var(--ink);
  text-decoration: underline;
}
.tools :deep([aria-pressed="true"].p-button) {
  background: var(--line);
  color: var(--ink);
}
@media (max-width: 760px) {
  .tools :deep(button) {
    min-height: 44px;
  }
}
</style>
