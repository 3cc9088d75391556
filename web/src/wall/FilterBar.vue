<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import { computed } from "vue";
import type { Phase, Trade } from "../api/client";
import { stepsLeft } from "../lib/filter";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** What is looked at: by trade, phase, product or finding. The rest stays on the drawing, faint. */
const job = useJob();
const steps = computed(() => job.view?.steps ?? []);
const shapes = computed(() => job.view?.elevation.shapes ?? []);
const findings = computed(() => job.view?.findings ?? []);
const listed = <T extends string>(all: T[], label: (x: T) => string) =>
  [...new Set(all)].map((value) => ({ value, label: label(value) })).sort((a, b) => a.label.localeCompare(b.label));
const choices = computed(() => [
  {
    of: "trade" as const,
    label: s.filter.trade,
    list: listed(
      steps.value.map((x) => x.trade),
      (x: Trade) => s.filter.trades[x],
    ),
  },
  {
    of: "phase" as const,
    label: s.filter.phase,
    list: listed(
      steps.value.map((x) => x.phase),
      (x: Phase) => s.filter.phases[x],
    ),
  },
  {
    of: "product" as const,
    label: s.filter.product,
    list: listed(
      shapes.value.map((x) => x.product),
      (x) => x,
    ),
  },
  {
    of: "fault" as const,
    label: s.filter.fault,
    list: listed(
      findings.value.map((x) => x.code),
      (x) => x,
    ),
  },
]);
const left = computed(() => stepsLeft(steps.value, shapes.value, findings.value, job.filter).length);
</script>

<template>
  <details class="filter" :open="job.isFiltered">
    <summary data-test="filter">
      {{ s.filter.title }}<b v-if="job.isFiltered"> · {{ s.filter.shown(left, steps.length) }}</b>
    </summary>
    <label v-for="c in choices" :key="c.of">
      <span>{{ c.label }}</span>
      <Select
        v-model="job.filter[c.of]"
        size="small"
        :input-id="`filter-${c.of}`"
        :options="c.list"
        option-label="label"
        option-value="value"
        show-clear
        :placeholder="s.filter.all"
        :aria-label="c.label"
      />
    </label>
    <Button
      v-if="job.isFiltered"
      size="small"
      text
      :label="s.filter.clear"
      data-test="filter-clear"
      @click="job.showEverything"
    />
  </details>
</template>

<style scoped>
.filter {
  padding: 4px 12px 8px;
  border-bottom: 1px solid var(--line);
}
summary {
  cursor: pointer;
  padding: 4px 0;
}
label {
  display: grid;
  grid-template-columns: 64px 1fr;
  align-items: center;
  gap: 6px;
  margin: 3px 0;
}
label :deep(.p-select) {
  min-width: 0;
}
</style>
