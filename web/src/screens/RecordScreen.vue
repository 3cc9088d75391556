<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, shallowRef, watch } from "vue";
import { api, type Entry, type WholeRecord } from "../api/client";
import { asInches } from "../lib/site";
import ScreenBar from "../shell/ScreenBar.vue";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** What was done, as it was written down: the newest first. */
const job = useJob();
const entries = shallowRef<Entry[]>([]);
const total = ref(0);
const whole = shallowRef<WholeRecord | null>(null);
const PAGE = 200;
const first = ref(1);
async function load(from?: number) {
  const id = job.state?.id;
  if (id === undefined) return;
  const params = { path: { id } };
  const stands = await api
    .GET("/api/jobs/{id}/stands", { params: { ...params, query: { step: "-" } } })
    .catch(() => null);
  total.value = stands?.data?.entries ?? 0;
  first.value = Math.max(1, from ?? total.value - PAGE + 1);
  const { data } = await api
    .GET("/api/jobs/{id}/record", { params: { ...params, query: { from: first.value } } })
    .catch(() => ({ data: undefined }));
  entries.value = (data ?? []).slice(0, PAGE).reverse();
}
watch(
  () => job.state?.id,
  () => void load(),
  { immediate: true },
);
async function verify() {
  const id = job.state?.id;
  if (id === undefined) return;
  const { data } = await api
    .GET("/api/jobs/{id}/record/verify", { params: { path: { id } } })
    .catch(() => ({ data: undefined }));
  whole.value = data ?? null;
}
const titles = computed(() => new Map((job.view?.steps ?? []).map((x) => [x.id, x.title])));
const when = (at: string) =>
  new Date(at).toLocaleString("en-US", { month: "short", day: "numeric", hour: "numeric", minute: "2-digit" });
function said(e: Entry): string {
  const { what } = e.event;
  const words = s.record.said[what.is];
  if (what.is === "reading") {
    const values = what.values.map((v) => (what.unit === "in" ? asInches(v) : `${v} ${what.unit}`)).join(", ");
    const good = what.good == null ? "" : `: ${what.good ? s.record.good : s.record.bad}`;
    return `${words} ${values}${what.asked ? ` (${what.asked})` : ""}${good}`;
  }
  if (what.is === "looked") return `${words}: ${what.good ? s.record.good : s.record.bad}`;
  return what.is === "lot" ? `${words} ${what.text}` : words;
}
const isBad = (e: Entry) => "good" in e.event.what && e.event.what.good === false;
</script>

<template>
  <div>
    <ScreenBar :title="s.record.title">
      <a v-if="job.state" :href="`/api/jobs/${job.state.id}/record.jsonl`">{{ s.record.file }}</a>
      <Button text :label="s.record.verify" data-test="verify" @click="verify" />
    </ScreenBar>
    <main class="page" data-test="record">
      <p class="quiet">{{ s.record.help }}</p>
      <p v-if="whole" class="whole" :class="{ broken: whole.broken }" role="status" data-test="whole">
        <template v-if="whole.broken"
          >✕ {{ s.record.number }} {{ whole.broken.number }}: {{ whole.broken.why }}</template
        >
        <template v-else>✓ {{ s.record.whole(whole.entries, whole.last.slice(0, 12)) }}</template>
      </p>
      <p v-if="entries.length === 0">{{ s.record.empty }}</p>
      <table v-else>
        <thead>
          <tr>
            <th scope="col">{{ s.record.number }}</th>
            <th scope="col">{{ s.record.when }}</th>
            <th scope="col">{{ s.record.who }}</th>
            <th scope="col">{{ s.record.where }}</th>
            <th scope="col">{{ s.record.what }}</th>
            <th scope="col">{{ s.record.note }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in entries" :key="e.number" :class="{ bad: isBad(e) }" :data-entry="e.number">
            <td>{{ e.number }}</td>
            <td>{{ when(e.event.at) }}</td>
            <td>{{ e.event.who }}</td>
            <td>
              <b>{{ e.event.place }}</b> {{ titles.get(e.event.step ?? "") ?? e.event.step }}
            </td>
            <td>{{ isBad(e) ? "✕ " : "" }}{{ said(e) }}</td>
            <td>{{ e.event.note }}</td>
          </tr>
        </tbody>
      </table>
      <p class="row">
        <Button v-if="first > 1" text :label="s.record.older" @click="load(first - PAGE)" />
        <Button v-if="first + PAGE <= total" text :label="s.record.newer" @click="load(first + PAGE)" />
      </p>
    </main>
  </div>
</template>

<style scoped>
.whole {
  padding: 8px 12px;
  background: var(--good-soft);
  border-left: 5px solid var(--good);
}
.whole.broken {
  background: var(--leak-soft);
  border-color: var(--leak);
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 7px 8px;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
.bad td {
  background: var(--leak-soft);
}
td:nth-child(2) {
  white-space: nowrap;
}
@media (max-width: 760px) {
  thead {
    display: none;
  }
  tr {
    display: grid;
    padding: 8px 0;
    border-bottom: 1px solid var(--line);
  }
  td {
    padding: 2px 4px;
    border: 0;
  }
}
</style>
