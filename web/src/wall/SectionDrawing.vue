<script setup lang="ts">
import SelectButton from "primevue/selectbutton";
import { useDebounceFn } from "@vueuse/core";
import { computed, ref } from "vue";
import type { SectionKind } from "../api/client";
import { sectionsOf } from "../lib/sections";
import { useJob } from "../stores/job";
import { s } from "../strings";
import ExplodedDrawing from "./ExplodedDrawing.vue";
import BuiltSection from "./BuiltSection.vue";
import SectionPicture from "./SectionPicture.vue";

const job = useJob();
type Pane = SectionKind | "apart";
const kinds = computed<{ label: string; value: Pane }[]>(() => [
  ...sectionsOf(job.state?.job, job.opening).map((value) => ({ label: s.section[value], value })),
  { label: s.apart.show, value: "apart" },
]);
const section = computed(() => job.shown?.section ?? null);
/** The stack as the model has it, instead of the wall as it is built. */
const stacked = ref(false);
const ask = useDebounceFn(() => void job.refresh(), 30);
function kind(value: Pane | null) {
  if (!value) return;
  job.apart = value === "apart";
  job.section = value === "apart" ? null : value;
  void job.refresh();
}
</script>

<template>
  <section class="section" :aria-label="s.section.title" data-test="section">
    <header>
      <SelectButton
        :model-value="job.apart ? 'apart' : (section?.kind ?? job.section)"
        :options="kinds"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        data-test="section-kinds"
        :aria-label="s.section.title"
        @update:model-value="kind"
      />
      <label v-if="!job.apart" class="at">
        <span>{{ s.section.at }}</span>
        <input
          v-model.number="job.cutAt"
          type="range"
          min="0.02"
          max="0.98"
          step="0.01"
          :aria-valuetext="section?.at"
          @input="ask"
        />
        <span class="quiet">{{ section?.at }}</span>
      </label>
      <label v-if="!job.apart" class="at">
        <input v-model="stacked" type="checkbox" data-test="as-water" />
        {{ s.section.asWater }}
      </label>
      <ul v-if="!job.apart && stacked" class="key">
        <li><i class="open" />{{ s.section.open }}</li>
        <li><i class="glued" />{{ s.section.glued }}</li>
        <li><i class="sealed" />{{ s.section.sealed }}</li>
        <li v-if="job.weather !== 'dry'"><i class="wet" />{{ s.section.wet }}</li>
      </ul>
    </header>
    <ExplodedDrawing
      v-if="job.apart"
      :exploded="job.shown?.exploded ?? null"
      :chosen="job.chosen"
      @step="(id) => (job.chosen = id)"
    />
    <BuiltSection
      v-else-if="section?.built && !stacked"
      :section="section"
      :chosen="job.chosen"
      @step="(id) => (job.chosen = id)"
    />
    <SectionPicture v-else-if="section" :section="section" />
    <p v-else class="none">{{ s.section.none }}</p>
  </section>
</template>

<style scoped>
.section {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
  background: var(--sheet);
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  padding: 6px 10px;
  border-bottom: 1px solid var(--line);
  font-size: 0.85rem;
}
.at {
  display: flex;
  gap: 6px;
  align-items: center;
}
.at input {
  accent-color: var(--shell);
}
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.key i {
  display: inline-block;
  width: 22px;
  height: 0;
  margin-right: 5px;
  vertical-align: middle;
  border-top: 3px solid transparent;
}
.key .open {
  height: 8px;
  border: 1px solid var(--ink-soft);
  border-width: 1px 0;
}
.key .glued {
  border-top: 3px solid var(--ink);
}
.key .sealed {
  border-top: 5px dotted var(--leak);
}
.key .wet {
  border-top: 6px solid var(--water);
}
.none {
  margin: auto;
}
</style>
