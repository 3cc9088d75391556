<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Select from "primevue/select";
import { computed, ref } from "vue";
import type { Pair, PairVerdict } from "../api/client";
import { longest, range } from "../lib/limits";
import { typedNumber, wrongNumber } from "../lib/numbers";
import { useJob } from "../stores/job";
import { s } from "../strings";
import FoldLine from "../fields/FoldLine.vue";

/** Every two products that touch in this job; unknown ones stay work until somebody records an answer and where it came from. */
const props = defineProps<{ pairs: Pair[] }>();
const job = useJob();
const open = computed(() => props.pairs.filter((p) => p.verdict === "unknown").length);
const chosen = ref<string | null>(null);
const verdict = ref<PairVerdict>("fine");
const source = ref("");
const hours = ref("");
const wrong = ref("");
const key = (p: Pair) => `${p.upper}|${p.lower}`;
const verdicts = (Object.keys(s.truck.verdicts) as PairVerdict[])
  .filter((v) => v !== "unknown")
  .map((value) => ({ value, label: s.truck.verdicts[value] }));
function choose(p: Pair) {
  chosen.value = chosen.value === key(p) ? null : key(p);
  source.value = p.source;
  wrong.value = "";
  hours.value = p.hours ? `${p.hours}` : "";
  verdict.value = p.verdict === "unknown" ? "fine" : p.verdict;
}
async function record(p: Pair, to: PairVerdict | null) {
  wrong.value = (to === "fine after" && wrongNumber(s.truck.cureHours, hours.value, "cure_hours", true)) || "";
  if (wrong.value) return;
  const cure = to === "fine after" ? (typedNumber(hours.value) ?? null) : null;
  const edit = {
    edit: "record_pair" as const,
    upper: p.upper,
    lower: p.lower,
    verdict: to,
    source: source.value,
    hours: cure,
  };
  if (await job.change(edit, s.truck.tabs.pairs)) {
    chosen.value = null;
  }
}
</script>

<template>
  <div data-test="pairs">
    <p class="quiet">
      <b>{{ open ? s.truck.open(open) : s.truck.clear }}</b>
    </p>
    <div v-for="p in pairs" :key="key(p)" class="pair" :class="p.verdict.replaceAll(' ', '-')" :data-pair="key(p)">
      <FoldLine :open="chosen === key(p)" @toggle="choose(p)">
        <template #head>
          <span class="mark" aria-hidden="true">{{ s.truck.mark[p.verdict] }}</span>
          <span>
            <b>{{ p.upper }}</b> {{ s.truck.on }} <b>{{ p.lower }}</b>
            <small> · {{ s.truck.places(p.places) }}</small>
          </span>
          <span class="said"
            >{{ s.truck.verdicts[p.verdict]
            }}<template v-if="p.hours && p.verdict === 'fine after'">, {{ s.truck.hours(p.hours) }}</template></span
          >
        </template>
        <p>
          {{ p.because }} <b>{{ p.remedy }}</b>
        </p>
        <p v-if="p.at.length" class="quiet">{{ p.at.join(", ") }}</p>
        <form v-if="job.mayChange" class="row" @submit.prevent="record(p, verdict)">
          <Select
            v-model="verdict"
            size="small"
            :options="verdicts"
            option-label="label"
            option-value="value"
            :aria-label="s.truck.verdict"
          />
          <InputText
            v-model="source"
            size="small"
            :placeholder="s.truck.source"
            :aria-label="s.truck.source"
            :maxlength="longest('pair_source')"
            data-test="pair-source"
            @keydown.stop
          />
          <InputText
            v-if="verdict === 'fine after'"
            v-model="hours"
            size="small"
            inputmode="decimal"
            class="hours"
            :placeholder="s.truck.cureHours"
            :aria-label="s.truck.cureHours"
            :title="range('cure_hours')"
            data-test="pair-hours"
            @keydown.stop
          />
          <Button type="submit" size="small" severity="secondary" :label="s.truck.record" data-test="record-pair" />
          <Button v-if="p.source" size="small" text :label="s.truck.forget" @click="record(p, null)" />
        </form>
        <p v-if="wrong" role="alert" data-test="pair-wrong">{{ wrong }}</p>
      </FoldLine>
      <p v-if="chosen !== key(p) && p.source" class="quiet source">{{ s.truck.recorded }}: {{ p.source }}</p>
    </div>
  </div>
</template>

<style scoped>
.pair {
  --fold-columns: 28px minmax(0, 1fr) minmax(90px, max-content);
  border-left: 5px solid var(--line);
}
.pair.never {
  border-left-color: var(--leak);
}
.pair.unknown {
  border-left-color: var(--ink);
}
.mark {
  width: 28px;
  height: 28px;
  font-weight: 700;
  line-height: 25px;
  text-align: center;
  border: 1.5px solid var(--ink);
  border-radius: 50%;
}
.said {
  text-align: right;
}
small {
  color: var(--ink-soft);
}
.source {
  padding: 0 10px 10px 46px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 6px;
}
.row :deep(input.hours) {
  flex: 0 1 150px;
}
.row :deep(input) {
  flex: 1 1 200px;
}
@media (max-width: 760px) {
  .pair {
    --fold-columns: 28px minmax(0, 1fr);
  }
  .said {
    grid-column: 2;
    text-align: left;
  }
}
</style>
