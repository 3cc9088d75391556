<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import { computed, ref } from "vue";
import type { Edit } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
/** Every mistake that is one change: pieces that can be done wrong, told by the drawing. */
const mistakes = computed(() => {
  const pieces = new Map((job.view?.elevation.shapes ?? []).map((x) => [x.piece, x]));
  const glued = [...pieces.values()].filter((p) => ["jamb", "head", "patch", "pan", "corner"].includes(p.role));
  const units = [...pieces.values()].filter((p) => p.role === "unit");
  const courses = [...pieces.values()].filter((p) => /^(w\d+\.)?course-/.test(p.piece));
  const of = (piece: string) => (piece.includes("/") ? ` (${piece.split("/")[0]})` : "");
  return [
    ...glued.map((p) => ({
      label: s.mistake.mouth(p.name + of(p.piece)),
      value: { kind: "fish-mouth" as const, piece: p.piece },
    })),
    ...glued.flatMap((p) =>
      (["short-left", "short-right", "short-top", "short-bottom"] as const).map((kind) => ({
        label: s.mistake.short[kind](p.name + of(p.piece)),
        value: { kind, piece: p.piece },
      })),
    ),
    ...units.map((p) => ({
      label: s.mistake.sealed(p.name + of(p.piece)),
      value: { kind: "sealed-bottom" as const, piece: p.piece },
    })),
    ...courses.map((p) => ({
      label: s.mistake.offLevel(p.name),
      value: { kind: "off-level" as const, piece: p.piece },
    })),
  ];
});
const chosen = ref<(typeof mistakes.value)[number]["value"] | null>(null);
async function make() {
  if (!chosen.value) return;
  const edit: Edit = { edit: "set_as_built", deviation: chosen.value, so: true };
  if (await job.change(edit, s.mistake.title)) {
    job.weather = "rain";
    void job.refresh();
  }
}
</script>

<template>
  <form class="try" @submit.prevent="make">
    <label for="mistake">{{ s.mistake.title }}</label>
    <div class="row">
      <Select
        v-model="chosen"
        input-id="mistake"
        :options="mistakes"
        option-label="label"
        option-value="value"
        data-key="piece"
        size="small"
        :placeholder="s.mistake.pick"
        data-test="mistake"
      />
      <Button type="submit" size="small" severity="secondary" :label="s.mistake.make" :disabled="!chosen" />
    </div>
    <p class="quiet">{{ s.mistake.help }}</p>
    <RouterLink
      v-if="job.state"
      class="practise"
      :to="{ name: 'practice', query: { job: job.state.id } }"
      :title="s.practice.ownHelp"
      data-test="practise-here"
      >{{ s.practice.here }}</RouterLink
    >
  </form>
</template>

<style scoped>
.practise {
  display: inline-flex;
  align-items: center;
  min-height: 44px;
  color: var(--ink);
}
.try {
  margin: 16px 12px;
  padding-top: 10px;
  border-top: 1px solid var(--line);
}
label {
  font-weight: 600;
}
.row {
  display: flex;
  gap: 6px;
  margin: 4px 0;
}
.row :deep(.p-select) {
  flex: 1;
  min-width: 0;
}
</style>
