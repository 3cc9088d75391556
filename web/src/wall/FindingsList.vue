<script setup lang="ts">
import Button from "primevue/button";
import { computed, nextTick, ref, watch } from "vue";
import SizeText from "../fields/SizeText.vue";
import type { Finding } from "../api/client";
import { findingsLeft } from "../lib/filter";
import { useJob } from "../stores/job";
import { s } from "../strings";
import TryMistake from "./TryMistake.vue";

const job = useJob();
const list = ref<HTMLOListElement | null>(null);

function show(f: Finding) {
  if (job.finding === f.number) return;
  job.finding = f.number;
}
/** Choosing a finding turns on the water that shows it. */
function choose(f: Finding) {
  show(f);
  const wanted = f.lost ? "lost" : f.drop.length ? "rain" : job.weather;
  if (job.weather === "dry" || (wanted === "lost") !== (job.weather === "lost")) {
    job.weather = wanted;
    void job.refresh();
  }
}
/** Numbers are those of the finished wall; before that there is nothing to mend yet. */
const finished = computed(() => (job.view?.done ?? 0) === job.total && !job.built);
/** What was tried for a finding; the sentence of the finding itself until it is. */
const tried = (f: Finding) => job.remedies?.get(f.number) ?? null;
// Remedies are tried behind the answer, for those who look at what is found.
watch(
  () => job.view,
  () => void job.loadRemedies(),
  { immediate: true },
);
watch(
  () => job.finding,
  async (n) => {
    await nextTick();
    // What is under the hand stays there: a button that moves away while it is pressed is never clicked.
    if (list.value?.matches(":hover, :focus-within")) return;
    list.value?.querySelector(`[data-finding="${n}"]`)?.scrollIntoView({ block: "nearest" });
  },
);
</script>

<template>
  <section class="findings" :aria-label="s.findings.title">
    <p v-if="job.view && job.view.findings.length === 0" class="none">{{ s.findings.none }}</p>
    <ol v-else ref="list">
      <li
        v-for="f in findingsLeft(job.view?.findings ?? [], job.filter)"
        :key="f.number"
        :class="[f.severity, { on: f.number === job.finding }]"
        :data-finding="f.number"
        data-test="finding"
        @mouseenter="show(f)"
      >
        <button class="told" :aria-pressed="f.number === job.finding" @click="choose(f)" @focus="show(f)">
          <span class="top">
            <b class="number">{{ f.number }}</b>
            <strong>{{ s.findings.severity[f.severity] }}</strong>
            <span class="code">{{ f.code }}</span>
          </span>
          <span v-if="f.head" class="head">{{ s.findings.head(f.head) }}</span>
          <span class="reason"><SizeText :text="f.reason" /></span>
          <span v-if="f.also.length" class="places" data-test="places">{{
            s.findings.places(f.also.length + 1, f.features)
          }}</span>
        </button>
        <p class="remedy"><SizeText :text="tried(f)?.words ?? f.remedy" /></p>
        <Button
          v-if="job.mayChange && tried(f)?.edit"
          size="small"
          :label="s.findings.fix"
          data-test="fix"
          @click="job.takeRemedy(f.number)"
          @focus="show(f)"
        />
        <RouterLink
          v-if="finished && f.severity !== 'glue' && f.severity !== 'note'"
          class="mend"
          :to="{ name: 'repair', params: { id: job.state?.id }, query: { finding: f.number } }"
          data-test="mend"
          >{{ s.repair.mend }}</RouterLink
        >
      </li>
    </ol>
    <TryMistake v-if="job.mayChange" />
  </section>
</template>

<style scoped>
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 10px 14px 12px;
  border-bottom: 1px solid var(--line);
  border-left: 5px solid var(--leak);
}
li.glue {
  border-left: 5px dashed var(--glue);
}
li.on {
  background: var(--sheet);
}
.places {
  display: block;
  margin-top: 4px;
  font-size: 0.85rem;
  font-weight: 600;
}
.told {
  display: block;
  width: 100%;
  padding: 0;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
}
.top {
  display: flex;
  gap: 8px;
  align-items: center;
}
.number {
  min-width: 24px;
  height: 24px;
  line-height: 22px;
  text-align: center;
  border: 1.5px solid var(--leak);
  border-radius: 50%;
  color: var(--leak);
}
.glue .number {
  color: var(--glue);
  border-color: var(--glue);
  border-style: dashed;
}
.code {
  margin-left: auto;
  font-size: 0.8rem;
  color: var(--ink-soft);
}
.head {
  display: block;
  font-weight: 650;
  color: var(--water);
}
.reason {
  display: block;
}
.remedy {
  margin: 6px 0;
  padding-left: 10px;
  border-left: 3px solid var(--good);
}
.mend {
  display: inline-flex;
  align-items: center;
  min-height: 44px;
  margin-left: 12px;
  color: var(--ink);
}
.none {
  padding: 14px 16px;
  color: var(--good);
  font-weight: 600;
}
</style>
