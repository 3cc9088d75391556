<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Select from "primevue/select";
import { computed, ref, shallowRef, watch } from "vue";
import { api, sentence, type KeptWay, type WayHere } from "../api/client";
import { longest } from "../lib/limits";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** The firm's way beside this job: which it follows, where it differs, taking it, leaving it, and keeping this job's own as one. */
const job = useJob();
const ways = shallowRef<KeptWay[]>([]);
const here = shallowRef<WayHere | null>(null);
/** Held against another than the one it follows. */
const other = ref<number | null>(null);
const name = ref("");
const said = ref("");
const wrong = ref("");
/** A name that is taken: once more replaces it. */
const taken = ref("");
const id = computed(() => job.state?.id);

async function load() {
  if (id.value === undefined) return;
  const query = other.value === null ? {} : { way: other.value };
  const [list, now] = await Promise.all([
    api.GET("/api/ways").catch(() => undefined),
    api.GET("/api/jobs/{id}/way", { params: { path: { id: id.value }, query } }).catch(() => undefined),
  ]);
  ways.value = list?.data ?? [];
  here.value = now?.data ?? null;
  if (now && !now.data) wrong.value = sentence(now.error, s.errors.offline);
}
watch([id, other, () => job.state?.revision], load, { immediate: true });
const differences = computed(() => here.value?.differences ?? []);
const followsIt = computed(() => here.value?.way && here.value.follows === here.value.way.name);

async function take() {
  const way = here.value?.way;
  if (way && (await job.change({ edit: "take_way", way }, s.ways.take))) {
    said.value = s.ways.taken;
    other.value = null;
  }
}
const leave = () => job.change({ edit: "leave_way" }, s.ways.leave);
async function keep() {
  if (id.value === undefined) return;
  [said.value, wrong.value] = ["", ""];
  const replace = taken.value !== "" && taken.value === name.value.trim().toLowerCase();
  const body = { job: id.value, name: name.value, replace };
  const { data, error } = await api.POST("/api/ways", { body }).catch(() => ({ data: undefined, error: undefined }));
  if (data) {
    said.value = s.ways.isKept(data.name);
    [name.value, taken.value] = ["", ""];
    await load();
    return;
  }
  wrong.value = sentence(error, s.errors.offline);
  const known = ways.value.some((w) => w.name.toLowerCase() === name.value.trim().toLowerCase());
  taken.value = known ? name.value.trim().toLowerCase() : "";
}
</script>

<template>
  <section class="way" data-test="way-panel">
    <h3>{{ s.ways.here }}</h3>
    <p v-if="here && !here.follows" class="quiet">{{ s.ways.own }}</p>
    <p v-else-if="here && !here.way" class="bad">{{ s.ways.lost(here.follows ?? "") }}</p>
    <p v-else-if="here">{{ s.ways.follows(here.follows ?? "") }}</p>
    <label v-if="ways.length" class="against">
      {{ s.ways.against }}
      <Select
        v-model="other"
        :options="ways"
        :placeholder="here?.follows ?? s.ways.choose"
        show-clear
        option-label="name"
        option-value="id"
        size="small"
        :aria-label="s.ways.against"
        data-test="against"
      />
    </label>
    <template v-if="here?.way">
      <p data-test="differs">{{ differences.length ? s.ways.differs(differences.length) : s.ways.same }}</p>
      <div v-if="differences.length" class="scroll">
        <table data-test="differences">
          <thead>
            <tr>
              <th scope="col">{{ s.ways.what }}</th>
              <th scope="col">{{ s.ways.job }}</th>
              <th scope="col">{{ here.way.name }}</th>
              <th scope="col">{{ s.ways.where }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="d in differences" :key="d.part + d.what + d.here">
              <th scope="row">{{ d.what }}</th>
              <td>{{ d.here }}</td>
              <td>{{ d.way }}</td>
              <td>{{ d.places.length ? d.places.join(", ") : s.ways.all }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <p v-if="job.mayChange" class="row">
      <Button
        v-if="here?.way && (!followsIt || differences.length)"
        size="small"
        :label="s.ways.take"
        data-test="take-way"
        @click="take"
      />
      <Button v-if="here?.follows" size="small" text :label="s.ways.leave" data-test="leave-way" @click="leave" />
    </p>
    <form v-if="job.mayChange" class="keep" @submit.prevent="keep">
      <label for="way-name">{{ s.ways.keepAs }}</label>
      <InputText id="way-name" v-model="name" size="small" :maxlength="longest('name')" data-test="way-name" />
      <Button
        type="submit"
        size="small"
        severity="secondary"
        :label="taken && taken === name.trim().toLowerCase() ? s.ways.replace : s.ways.keep"
        :disabled="!name.trim()"
        data-test="keep-way"
      />
    </form>
    <p v-if="wrong" role="alert" class="bad" data-test="way-wrong">{{ wrong }}</p>
    <p v-if="said" role="status" data-test="way-said">{{ said }}</p>
  </section>
</template>

<style scoped>
.way {
  margin: 20px 0;
  padding: 10px 14px 14px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-top: 3px solid var(--shell);
}
.against,
.keep,
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 8px 0 0;
}
.scroll {
  overflow-x: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 0.92rem;
}
th,
td {
  padding: 4px 8px;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
tbody th {
  font-weight: 500;
}
.bad {
  color: var(--leak);
}
</style>
