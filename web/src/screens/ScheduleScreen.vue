<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import Select from "primevue/select";
import { computed, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import type { Edit, Field, Schedule } from "../api/client";
import FilePick from "../fields/FilePick.vue";
import ScreenBar from "../shell/ScreenBar.vue";
import { mapped, readSchedule } from "../lib/schedule";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
const route = useRoute();
const router = useRouter();
const file = shallowRef<File | null>(null);
const unit = ref("in");
const mapping = ref(new Map<number, Field | null>());
const read = shallowRef<Schedule | null>(null);
const error = ref("");
const busy = ref(false);
const units = ["in", "ft", "mm", "cm", "m"];
const fields: (Field | "none")[] = [
  "none",
  "mark",
  "name",
  "kind",
  "width",
  "height",
  "left",
  "sill",
  "depth",
  "flange",
  "count",
];
const choices = fields.map((value) => ({ value, label: s.schedule.fields[value] }));

const good = computed(() => read.value?.rows.flatMap((r) => r.openings) ?? []);
const bad = computed(() => read.value?.rows.filter((r) => r.problems.length) ?? []);

async function ask() {
  const id = job.state?.id;
  if (!file.value || id === undefined) return;
  busy.value = true;
  const answer = await readSchedule(id, file.value, unit.value, mapped(mapping.value));
  busy.value = false;
  error.value = answer.error;
  read.value = answer.schedule;
}
function choose(chosen: File) {
  file.value = chosen;
  mapping.value = new Map();
  void ask();
}
function map(column: number, field: Field | "none") {
  mapping.value.set(column, field === "none" ? null : field);
  void ask();
}
async function take() {
  const kept = await job.change({ edit: "add_openings", openings: good.value } as Edit, s.schedule.title);
  if (kept) await router.push({ name: "wall", params: { id: String(route.params.id) } });
}
watch([unit, () => job.state?.id], ask);
</script>

<template>
  <div>
    <ScreenBar :title="s.schedule.title" />
    <main class="page" data-test="schedule">
      <p>{{ s.schedule.help }}</p>
      <p class="row">
        <FilePick
          :label="s.schedule.file"
          accept=".csv,.txt,.xlsx,.ods"
          test="schedule-file"
          :chosen="file?.name"
          @chosen="choose"
        />
        <label for="schedule-unit">{{ s.schedule.unit }}</label>
        <Select v-model="unit" input-id="schedule-unit" size="small" :options="units" :aria-label="s.schedule.unit" />
      </p>
      <template v-if="!file">
        <p>{{ s.schedule.known }}</p>
        <p>
          <a href="/example-schedule.csv" download data-test="schedule-example">{{ s.schedule.example }}</a>
        </p>
      </template>
      <Message v-if="error" severity="error" data-test="schedule-error">{{ error }}</Message>
      <p v-if="busy" aria-busy="true">{{ s.schedule.reading }}</p>
      <template v-if="read">
        <h2>{{ s.schedule.columns }}</h2>
        <div class="columns">
          <label v-for="(c, i) in read.columns" :key="i">
            <span>{{ c.name || s.schedule.unnamed }}</span>
            <Select
              size="small"
              :model-value="c.field ?? 'none'"
              :options="choices"
              option-label="label"
              option-value="value"
              :aria-label="c.name"
              @update:model-value="(f: Field | 'none') => map(i, f)"
            />
          </label>
        </div>
        <p class="row">
          <Button
            :label="s.schedule.take(good.length)"
            :disabled="!good.length || !job.mayChange"
            data-test="take-schedule"
            @click="take"
          />
          <span>{{ s.schedule.found(good.length, bad.length) }}</span>
        </p>
        <template v-if="bad.length">
          <h2>{{ s.schedule.bad }}</h2>
          <ul data-test="bad-rows">
            <li v-for="r in bad" :key="r.row">
              <b>{{ s.schedule.row(r.row) }}</b> {{ r.problems.join(" ") }}
            </li>
          </ul>
        </template>
        <h2 v-if="good.length">{{ s.schedule.good }}</h2>
        <table v-if="good.length">
          <thead>
            <tr>
              <th>{{ s.schedule.fields.mark }}</th>
              <th>{{ s.schedule.fields.name }}</th>
              <th>{{ s.schedule.fields.width }}</th>
              <th>{{ s.schedule.fields.height }}</th>
              <th>{{ s.schedule.fields.left }}</th>
              <th>{{ s.schedule.fields.sill }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="o in good" :key="o.id">
              <td>{{ o.id }}</td>
              <td>{{ o.name }}</td>
              <td>{{ o.width }}</td>
              <td>{{ o.height }}</td>
              <td>{{ o.left }}</td>
              <td>{{ o.sill }}</td>
            </tr>
          </tbody>
        </table>
      </template>
    </main>
  </div>
</template>

<style scoped>
.page {
  max-width: 1060px;
  margin: 0 auto;
  padding: 16px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  margin: 12px 0;
}
.columns {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
.columns label {
  display: grid;
  gap: 4px;
  font-size: 0.85rem;
}
h2 {
  margin: 18px 0 6px;
  font-size: 1.05rem;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 4px 8px;
  text-align: left;
  border-bottom: 1px solid var(--line);
}
ul {
  padding-left: 18px;
}
</style>
