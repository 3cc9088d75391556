<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, shallowRef, watch } from "vue";
import { api, type MinutesTaken } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** Minutes really taken, by the record, against those of the profile; what they come to is offered as a figure. */
const job = useJob();
const answer = shallowRef<MinutesTaken | null>(null);
const wrong = ref("");
watch(
  () => [job.state?.id, job.state?.revision],
  async () => {
    const id = job.state?.id;
    if (id === undefined) return;
    try {
      answer.value = (await api.GET("/api/jobs/{id}/minutes", { params: { path: { id } } })).data ?? null;
      wrong.value = "";
    } catch {
      wrong.value = s.repair.silent;
    }
  },
  { immediate: true },
);
const offer = computed(() => answer.value?.offer ?? null);
const rows = computed(() => [
  ...(answer.value?.people ?? []).map((t) => ({ ...t, who: true })),
  ...(answer.value?.kinds ?? []).slice(0, 12).map((t) => ({ ...t, who: false })),
]);
function take() {
  const o = offer.value;
  if (o) void job.change({ edit: "set_figure", id: o.figure, value: o.offered }, s.minutes.title);
}
</script>

<template>
  <details v-if="answer?.all" class="minutes" data-test="minutes">
    <summary>{{ s.minutes.says(answer.all.steps, answer.all.factor) }}</summary>
    <p v-if="wrong" role="alert">{{ wrong }}</p>
    <p v-if="offer && offer.offered !== offer.now" class="offer">
      {{ s.minutes.offer(offer.now, offer.offered) }}
      <Button size="small" :label="s.minutes.take" data-test="take-minutes" @click="take" />
    </p>
    <table>
      <thead>
        <tr>
          <th scope="col">{{ s.minutes.of }}</th>
          <th scope="col">{{ s.minutes.steps }}</th>
          <th scope="col">{{ s.minutes.planned }}</th>
          <th scope="col">{{ s.minutes.taken }}</th>
          <th scope="col">{{ s.minutes.times }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in rows" :key="`${t.who}${t.of}`" :class="{ who: t.who }">
          <th scope="row">{{ t.of }}</th>
          <td>{{ t.steps }}</td>
          <td>{{ t.planned.toFixed(0) }}</td>
          <td>{{ t.taken.toFixed(0) }}</td>
          <td>{{ t.factor.toFixed(2) }}</td>
        </tr>
      </tbody>
    </table>
    <p class="quiet">{{ s.minutes.help }}</p>
  </details>
</template>

<style scoped>
summary {
  min-height: 44px;
  line-height: 44px;
  font-weight: 650;
}
.offer {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
table {
  border-collapse: collapse;
}
th,
td {
  padding: 4px 12px 4px 0;
  text-align: left;
  font-weight: 400;
}
td {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.who th {
  font-weight: 650;
}
.quiet {
  color: var(--ink-soft);
}
</style>
