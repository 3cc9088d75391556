<script setup lang="ts">
import Button from "primevue/button";
import Checkbox from "primevue/checkbox";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import { computed, ref, shallowRef, watch } from "vue";
import { useRoute } from "vue-router";
import { api, sentence, type ProfileAnswer } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";
import FileLinks from "../fields/FileLinks.vue";

/** Every figure as shipped, in force and in each version kept, held against each other; versions are kept, brought back, sent and taken. */
const job = useJob();
const profile = shallowRef<ProfileAnswer | null>(null);
const problem = ref<string | null>(null);
const name = ref("");
const source = ref("");
const route = useRoute();
const wanted = ref("");
// A figure that was found by typing is looked for here.
watch(
  () => route.query.find,
  (id) => (wanted.value = typeof id === "string" ? id : ""),
  { immediate: true },
);
const onlyDiffering = ref(true);

async function load() {
  const id = job.state?.id;
  if (id === undefined) return;
  const { data, error } = await api
    .GET("/api/jobs/{id}/profile", { params: { path: { id } } })
    .catch(() => ({ data: undefined, error: undefined }));
  if (data) profile.value = data;
  problem.value = data ? null : sentence(error, s.errors.offline);
}
watch(() => [job.state?.id, job.state?.revision], load, { immediate: true });
const rows = computed(() => {
  const words = wanted.value.trim().toLowerCase();
  const all = profile.value?.rows ?? [];
  if (words) return all.filter((r) => `${r.name} ${r.id}`.toLowerCase().includes(words));
  return onlyDiffering.value ? all.filter((r) => r.differs) : all;
});
const keep = async () => {
  await job.change({ edit: "keep_profile", name: name.value, source: source.value }, name.value);
  if (!job.error) [name.value, source.value] = ["", ""];
};
async function take(file: File) {
  const { data, error } = await api
    .POST("/api/profile", { body: file as unknown as string, bodySerializer: (b) => b as unknown as BodyInit })
    .catch(() => ({ data: undefined, error: undefined }));
  problem.value = data ? null : sentence(error, s.errors.offline);
  if (data) await job.change({ edit: "set_figures", figures: data }, file.name);
}
function set(id: string, e: Event, was: string) {
  const text = (e.target as HTMLInputElement).value.trim();
  if (text !== was) void job.change({ edit: "set_figure", id, value: text || null }, id);
}
</script>

<template>
  <div v-if="profile" data-test="profile">
    <FileLinks of="profile" :endings="['csv', 'xlsx', 'json']" :help="s.truck.profileHelp" @taken="take" />
    <Message v-if="problem" severity="error" data-test="profile-problem">{{ problem }}</Message>
    <form v-if="job.mayChange" class="row" @submit.prevent="keep">
      <InputText
        v-model="name"
        size="small"
        :placeholder="s.truck.keepAs"
        :aria-label="s.truck.keepAs"
        data-test="keep-name"
        @keydown.stop
      />
      <InputText
        v-model="source"
        size="small"
        :placeholder="s.truck.keepSource"
        :aria-label="s.truck.keepSource"
        @keydown.stop
      />
      <Button type="submit" size="small" :label="s.truck.keep" data-test="keep-profile" />
    </form>
    <p class="row">
      <InputText
        v-model="wanted"
        size="small"
        :placeholder="s.truck.findFigure"
        :aria-label="s.truck.findFigure"
        data-test="find-figure"
        @keydown.stop
      />
      <label class="only"
        ><Checkbox v-model="onlyDiffering" binary :disabled="!!wanted.trim()" /> {{ s.truck.onlyDiffering }}</label
      >
    </p>
    <div class="wide">
      <table>
        <thead>
          <tr>
            <th scope="col">{{ s.truck.figure }}</th>
            <th scope="col">{{ s.truck.inForce }}</th>
            <th scope="col">
              {{ profile.name }}<small>{{ profile.id }}</small>
              <Button
                v-if="job.mayChange"
                size="small"
                text
                :label="s.truck.bringBack"
                data-test="restore-shipped"
                @click="job.change({ edit: 'restore_profile', name: null }, profile.name)"
              />
            </th>
            <th v-for="k in profile.kept" :key="k.name" scope="col" :data-kept="k.name">
              {{ k.name }}<small>{{ k.source }}</small>
              <Button
                v-if="job.mayChange"
                size="small"
                text
                :label="s.truck.bringBack"
                :aria-label="`${s.truck.bringBack}: ${k.name}`"
                @click="job.change({ edit: 'restore_profile', name: k.name ?? '' }, k.name ?? '')"
              />
              <Button
                v-if="job.mayChange"
                size="small"
                text
                severity="secondary"
                :label="s.truck.forget"
                :aria-label="`${s.truck.forget}: ${k.name}`"
                @click="job.change({ edit: 'forget_profile', name: k.name ?? '' }, k.name ?? '')"
              />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.id" :data-figure="r.id">
            <th scope="row">
              {{ r.name }}<small>{{ r.why }} ({{ s.sizes.source[r.source] }})</small>
            </th>
            <td>
              <input
                class="value"
                :disabled="!job.mayChange"
                :value="r.in_force"
                :aria-label="r.name"
                @keydown.stop
                @keydown.enter="(e) => set(r.id, e, r.in_force)"
                @blur="(e) => set(r.id, e, r.in_force)"
              />
            </td>
            <td :class="{ other: r.value !== r.in_force }">{{ r.value }}</td>
            <td v-for="(v, i) in r.kept" :key="i" :class="{ other: v !== r.in_force }">{{ v }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="!rows.length" class="quiet">{{ wanted.trim() ? s.truck.noneFound(wanted) : s.truck.asShipped }}</p>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
  margin: 10px 0;
}
.only {
  display: flex;
  gap: 6px;
  align-items: center;
}
.wide {
  overflow-x: auto;
}
table {
  width: 100%;
  background: var(--sheet);
  border-collapse: collapse;
}
th,
td {
  padding: 6px 8px;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
tbody th {
  max-width: 420px;
  font-weight: 500;
}
small {
  display: block;
  font-weight: 400;
  color: var(--ink-soft);
}
.value {
  width: 84px;
  min-height: 32px;
  padding: 2px 6px;
  font: inherit;
  color: inherit;
  background: var(--paper);
  border: 1px solid var(--ink-soft);
  border-radius: 4px;
}
.other {
  font-weight: 700;
  background: var(--glue-soft);
}
</style>
