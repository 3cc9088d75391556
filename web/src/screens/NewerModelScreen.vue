<script setup lang="ts">
import Button from "primevue/button";
import { ref, shallowRef } from "vue";
import { useRouter } from "vue-router";
import { api, sentence, type Newer } from "../api/client";
import FilePick from "../fields/FilePick.vue";
import ModelPlan from "../firm/ModelPlan.vue";
import ScreenBar from "../shell/ScreenBar.vue";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** A newer model of a building that is planned already: what moved, is new or gone, before anything of it is taken. */
const job = useJob();
const router = useRouter();
const found = shallowRef<Newer | null>(null);
const wrong = ref("");
const name = ref("");
const asking = ref(false);
const MOST = 200 * 1024 * 1024;
let chosen: File | null = null;
async function read(file: File) {
  [found.value, wrong.value, name.value, chosen] = [null, "", file.name, file];
  const id = job.state?.id;
  if (id === undefined) return;
  if (file.size > MOST) return void (wrong.value = s.fromModel.large);
  asking.value = true;
  const ask = { params: { path: { id } }, body: file as unknown as string, bodySerializer: (b: string) => b };
  const { data, error } = await api
    .POST("/api/jobs/{id}/model", ask)
    .catch(() => ({ data: undefined, error: undefined }));
  asking.value = false;
  if (data) found.value = data;
  else wrong.value = sentence(error, s.errors.offline);
}
/** The same file with what is planned here, to be opened where the model is drawn. */
async function writeBack() {
  const id = job.state?.id;
  if (!chosen || id === undefined) return;
  wrong.value = "";
  asking.value = true;
  const body = chosen as unknown as string;
  const ask = { params: { path: { id } }, body, bodySerializer: (b: string) => b, parseAs: "blob" as const };
  const { data, error } = await api
    .POST("/api/jobs/{id}/model.ifc", ask)
    .catch(() => ({ data: undefined, error: undefined }));
  asking.value = false;
  if (!data) return void (wrong.value = sentence(error, s.errors.offline));
  const link = document.createElement("a");
  link.href = URL.createObjectURL(data as Blob);
  link.download = name.value;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
async function take() {
  const edit = found.value?.edit;
  if (!edit || !job.state) return;
  if (await job.change(edit, s.newerModel.title))
    await router.push({ name: "wall", params: { id: String(job.state.id) } });
}
</script>

<template>
  <div>
    <ScreenBar :title="s.newerModel.title" />
    <main class="page" data-test="newer-model">
      <p>{{ s.newerModel.help }}</p>
      <p class="row">
        <FilePick :label="s.fromModel.file" accept=".ifc" test="newer-file" :chosen="name" @chosen="read" />
        <span v-if="asking" role="status">{{ s.fromModel.reading }}</span>
        <Button v-if="found?.edit" :label="s.newerModel.take" data-test="take-newer" @click="take" />
        <Button
          v-if="found"
          severity="secondary"
          :label="s.newerModel.writeBack"
          :disabled="asking"
          data-test="write-back"
          @click="writeBack"
        />
      </p>
      <p v-if="wrong" role="alert" class="wrong" data-test="newer-wrong">{{ wrong }}</p>
      <div v-if="found" class="both">
        <ModelPlan :walls="found.drawn" />
        <div>
          <template v-if="found.refused.length">
            <h3>{{ s.newerModel.refused }}</h3>
            <ul class="wrong" data-test="newer-refused">
              <li v-for="r in found.refused" :key="r">{{ r }}</li>
            </ul>
          </template>
          <p v-else-if="!found.edit" data-test="newer-same">{{ s.newerModel.same }}</p>
          <ul v-if="found.walls.length" data-test="newer-walls">
            <li v-for="w in found.walls" :key="w">{{ w }}</li>
          </ul>
          <table v-if="found.changes.length" data-test="newer-changes">
            <thead>
              <tr>
                <th scope="col">{{ s.fromModel.mark }}</th>
                <th scope="col">{{ s.fromModel.name }}</th>
                <th scope="col">{{ s.newerModel.what }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="c in found.changes" :key="c.id">
                <td>{{ c.id }}</td>
                <td>{{ c.name }}</td>
                <td>{{ c.says }}</td>
              </tr>
            </tbody>
          </table>
          <template v-if="found.left_out.length">
            <h3>{{ s.fromModel.leftOut }}</h3>
            <ul>
              <li v-for="l in found.left_out" :key="l">{{ l }}</li>
            </ul>
          </template>
        </div>
      </div>
    </main>
  </div>
</template>

<style scoped>
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
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
.wrong {
  color: var(--leak);
}
</style>
