<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, shallowRef } from "vue";
import { useRouter } from "vue-router";
import { api, sentence, type FromModel } from "../api/client";
import FilePick from "../fields/FilePick.vue";
import ModelPlan from "../firm/ModelPlan.vue";
import KameMark from "../shell/KameMark.vue";
import { s } from "../strings";

/** A building out of its model: what would become of it from above, what is left out and why, before anything is taken. */
const router = useRouter();
const found = shallowRef<FromModel | null>(null);
const wrong = ref("");
const name = ref("");
const asking = ref(false);
const MOST = 200 * 1024 * 1024;
async function read(file: File) {
  [found.value, wrong.value, name.value] = [null, "", file.name];
  if (file.size > MOST) return void (wrong.value = s.fromModel.large);
  asking.value = true;
  const { data, error } = await api
    .POST("/api/model", { body: file as unknown as string, bodySerializer: (b) => b })
    .catch(() => ({ data: undefined, error: undefined }));
  asking.value = false;
  if (data) found.value = data;
  else wrong.value = sentence(error, s.errors.offline);
}
async function take() {
  if (!found.value) return;
  asking.value = true;
  const { data, error } = await api
    .POST("/api/import", { body: JSON.stringify(found.value.job), bodySerializer: (b) => b })
    .catch(() => ({ data: undefined, error: undefined }));
  asking.value = false;
  if (!data) return void (wrong.value = sentence(error, s.errors.offline));
  await router.push({ name: "wall", params: { id: String(data.id) } });
}
const openings = computed(() => found.value?.job.openings ?? []);
</script>

<template>
  <div>
    <header class="bar">
      <RouterLink to="/" :aria-label="s.wall.back"><KameMark /></RouterLink>
      <h1>{{ s.fromModel.title }}</h1>
    </header>
    <main class="page" data-test="model">
      <p>{{ s.fromModel.help }}</p>
      <p class="row">
        <FilePick :label="s.fromModel.file" accept=".ifc" test="model-file" :chosen="name" @chosen="read" />
        <span v-if="asking" role="status">{{ s.fromModel.reading }}</span>
        <Button v-if="found" :label="s.fromModel.take" :disabled="asking" data-test="take-model" @click="take" />
      </p>
      <p v-if="wrong" role="alert" class="wrong" data-test="model-wrong">{{ wrong }}</p>
      <div v-if="found" class="both">
        <ModelPlan :walls="found.walls" />
        <div>
          <h2>{{ found.job.name }}</h2>
          <p>{{ s.fromModel.counts(found.walls.length, openings.length) }}</p>
          <table>
            <thead>
              <tr>
                <th>{{ s.fromModel.mark }}</th>
                <th>{{ s.fromModel.name }}</th>
                <th>{{ s.fromModel.size }}</th>
                <th>{{ s.fromModel.sill }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="o in openings" :key="o.id" :data-model-opening="o.id">
                <td>{{ o.id }}</td>
                <td>{{ o.name }}</td>
                <td>{{ o.width }} × {{ o.height }}</td>
                <td>{{ o.sill }}</td>
              </tr>
            </tbody>
          </table>
          <template v-if="found.left_out.length">
            <h3>{{ s.fromModel.leftOut }}</h3>
            <ul data-test="left-out">
              <li v-for="l in found.left_out" :key="l">{{ l }}</li>
            </ul>
          </template>
        </div>
      </div>
    </main>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 10px 16px;
  color: var(--shell-ink);
  background: var(--shell);
}
.bar h1 {
  font-size: 1.2rem;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  margin: 10px 0;
}
.both {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 1fr));
  gap: 24px;
  align-items: start;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 4px 8px 4px 0;
  text-align: left;
  border-bottom: 1px solid var(--line);
}
h3 {
  margin-top: 14px;
}
.wrong {
  padding: 8px 12px;
  background: var(--leak-soft);
  border-left: 4px solid var(--leak);
}
</style>
