<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import Select from "primevue/select";
import { computed, inject, onMounted, onUnmounted, ref, shallowRef } from "vue";
import { useRouter } from "vue-router";
import {
  api,
  sentence,
  type Deleted,
  type FirmLine,
  type FoundJob,
  type JobSummary,
  type KeptWay,
} from "../api/client";
import FilePick from "../fields/FilePick.vue";
import FindJob from "../firm/FindJob.vue";
import AccountNews from "../firm/AccountNews.vue";
import JobLine from "../firm/JobLine.vue";
import KameMark from "../shell/KameMark.vue";
import { longest } from "../lib/limits";
import { darkKey } from "../lib/theme-key";
import { useMe } from "../stores/me";
import LanguageChoice from "../shell/LanguageChoice.vue";
import { locale } from "../lib/language";
import { s } from "../strings";

const me = useMe();
const router = useRouter();
const dark = inject(darkKey, ref(false));
const jobs = ref<JobSummary[] | null>(null);
const error = ref<string | null>(null);
const deleted = ref<Deleted[]>([]);
/** Why nothing can be changed just now. */
const readOnly = ref<string | null>(null);
const removed = ref<JobSummary | null>(null);
const naming = ref<{ job: JobSummary | null; name: string; way: number | null } | null>(null);
/** How far each job has come; asked for one after the other, once the list is there. */
const lines = shallowRef<Record<number, FirmLine>>({});
const found = shallowRef<FoundJob[] | null>(null);
const ways = shallowRef<KeptWay[]>([]);
const atWork = computed(() => (jobs.value ?? []).filter((j) => !j.archived));
const aside = computed(() => (jobs.value ?? []).filter((j) => j.archived));
const begun = computed(() => atWork.value.filter((j) => lines.value[j.id]?.tonight));
const risks = computed(() => begun.value.filter((j) => lines.value[j.id]?.tonight?.state !== "dry"));
const waysToStart = computed(() => [{ id: null, name: s.jobs.ownWay }, ...ways.value]);

/** Runs a request; its answer, or null with the sentence shown. */
async function ask<T>(request: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T | true | null> {
  try {
    const { data, error: problem, response } = await request;
    error.value = response.ok ? null : sentence(problem, s.errors.offline);
    return response.ok ? (data ?? true) : null;
  } catch {
    error.value = s.errors.offline;
    return null;
  }
}
async function load() {
  const list = await ask(api.GET("/api/jobs"));
  if (Array.isArray(list)) jobs.value = list;
  void howFar();
  const health = await api.GET("/api/health").catch(() => undefined);
  const gone = me.may("builder") ? await api.GET("/api/deleted-jobs").catch(() => undefined) : undefined;
  const kept = me.may("viewer") ? await api.GET("/api/ways").catch(() => undefined) : undefined;
  ways.value = kept?.data ?? [];
  deleted.value = gone?.data ?? [];
  readOnly.value = health?.data?.read_only ?? null;
}
onMounted(load);
let asking = 0;
/** What is asked for stops where somebody looks at something else, or the list is read anew. */
async function howFar() {
  const mine = ++asking;
  for (const job of atWork.value) {
    const { data } = await api
      .GET("/api/jobs/{id}/progress", { params: { path: { id: job.id } } })
      .catch(() => ({ data: undefined }));
    if (mine !== asking) return;
    if (data) lines.value = { ...lines.value, [job.id]: data };
  }
}
onUnmounted(() => (asking += 1));
async function putAside(job: JobSummary, away: boolean) {
  await ask(api.POST("/api/jobs/{id}/archive", { params: { path: { id: job.id } }, body: { aside: away } }));
  await load();
}

const open = (id: number) => router.push({ name: "wall", params: { id: String(id) } });
async function named() {
  const n = naming.value;
  if (!n) return;
  if (n.job) {
    const params = { path: { id: n.job.id }, header: { "If-Match": `"${n.job.revision}"` }, query: {} };
    const kept = await ask(api.POST("/api/jobs/{id}/edits", { params, body: { edit: "rename", name: n.name } }));
    if (kept) naming.value = null;
    await load();
  } else {
    const made = await ask(api.POST("/api/jobs", { body: { name: n.name } }));
    if (!made || made === true) return;
    if (n.way !== null && (await byWay(made.id, made.revision, n.way))) return void (await open(made.id));
    // A new wall that goes its own way starts with its strategy.
    await router.push({ name: "start", params: { id: String(made.id) } });
  }
}
/** Takes one of the firm's ways for a job. */
async function byWay(id: number, revision: number, way: number) {
  const whole = await ask(api.GET("/api/ways/{id}", { params: { path: { id: way } } }));
  if (!whole || whole === true) return false;
  const params = { path: { id }, header: { "If-Match": `"${revision}"` }, query: {} };
  return !!(await ask(api.POST("/api/jobs/{id}/edits", { params, body: { edit: "take_way", way: whole } })));
}
async function copy(job: JobSummary) {
  await ask(api.POST("/api/jobs/{id}/copy", { params: { path: { id: job.id } } }));
  await load();
}
async function remove(job: JobSummary) {
  const params = { path: { id: job.id }, header: { "If-Match": `"${job.revision}"` } };
  if (await ask(api.DELETE("/api/jobs/{id}", { params }))) removed.value = job;
  await load();
}
async function putBack(id: number) {
  removed.value = null;
  await ask(api.POST("/api/jobs/{id}/restore", { params: { path: { id } } }));
  await load();
}
async function imported(file: File) {
  const made = await ask(api.POST("/api/import", { body: file as unknown as string, bodySerializer: (b) => b }));
  if (made && made !== true) await open(made.id);
}
const when = (iso: string) => new Date(iso).toLocaleString(locale, { dateStyle: "medium", timeStyle: "short" });
</script>

<template>
  <div>
    <header class="bar">
      <KameMark />
      <div class="word">
        <h1>{{ s.kame }}</h1>
        <p>{{ s.tagline }}</p>
      </div>
      <RouterLink v-if="me.me?.person" class="to-people" :to="{ name: 'people' }" data-test="to-people">{{
        me.me.person.name
      }}</RouterLink>
      <Button text :label="dark ? s.wall.light : s.wall.dark" @click="dark = !dark" />
    </header>
    <main class="page">
      <AccountNews />
      <div class="head">
        <h2>{{ s.jobs.title }}</h2>
        <RouterLink class="to-practice" :to="{ name: 'ways' }" data-test="to-ways">{{ s.ways.title }}</RouterLink>
        <RouterLink class="to-practice" :to="{ name: 'model' }" data-test="to-model">{{
          s.fromModel.title
        }}</RouterLink>
        <RouterLink class="to-practice" :to="{ name: 'practice' }" data-test="to-practice">{{
          s.practice.title
        }}</RouterLink>
        <Button :label="s.jobs.new" data-test="new-job" @click="naming = { job: null, name: '', way: null }" />
        <FilePick :label="s.jobs.import" accept=".json,application/json" test="import-file" @chosen="imported" />
      </div>
      <Message v-if="error" severity="error" data-test="error"
        >{{ error }} <Button size="small" text :label="s.errors.retry" @click="load"
      /></Message>
      <Message v-if="readOnly" severity="error" :closable="false" data-test="read-only">{{ readOnly }}</Message>
      <Message v-if="removed" severity="secondary" data-test="removed"
        >{{ s.jobs.removed(removed.name) }}
        <Button size="small" text :label="s.jobs.undo" data-test="put-back" @click="putBack(removed.id)"
      /></Message>
      <FindJob v-if="jobs?.length" @found="found = $event" />
      <p v-if="jobs === null && !error" aria-busy="true">{{ s.jobs.loading }}</p>
      <div v-else-if="jobs?.length === 0" class="empty">
        <h3>{{ s.jobs.empty }}</h3>
        <p>{{ s.jobs.emptyHelp }}</p>
      </div>
      <template v-else-if="found === null">
        <p v-if="begun.length" class="risks" data-test="risks">
          {{ s.jobs.risks(risks.length) }}
          <RouterLink v-for="j in risks" :key="j.id" :to="{ name: 'site', params: { id: String(j.id) } }">{{
            j.name
          }}</RouterLink>
        </p>
        <ul>
          <li v-for="j in atWork" :key="j.id" data-test="job">
            <JobLine :job="j" :line="lines[j.id]" @open="open(j.id)" />
            <span class="tools">
              <Button
                size="small"
                text
                :label="s.jobs.copy"
                :aria-label="`${s.jobs.copy}: ${j.name}`"
                @click="copy(j)"
              />
              <Button
                size="small"
                text
                :label="s.jobs.rename"
                :aria-label="`${s.jobs.rename}: ${j.name}`"
                @click="naming = { job: j, name: j.name, way: null }"
              />
              <Button
                size="small"
                text
                :label="s.jobs.aside"
                :aria-label="`${s.jobs.aside}: ${j.name}`"
                data-test="put-aside"
                @click="putAside(j, true)"
              />
              <Button
                size="small"
                text
                severity="danger"
                :label="s.jobs.remove"
                :aria-label="`${s.jobs.remove}: ${j.name}`"
                @click="remove(j)"
              />
            </span>
          </li>
        </ul>
        <details v-if="aside.length" data-test="aside">
          <summary>{{ s.jobs.archive(aside.length) }}</summary>
          <ul>
            <li v-for="j in aside" :key="j.id">
              <RouterLink class="gone" :to="{ name: 'wall', params: { id: String(j.id) } }">{{ j.name }}</RouterLink>
              <Button
                size="small"
                text
                :label="s.jobs.takeBack"
                :aria-label="`${s.jobs.takeBack}: ${j.name}`"
                data-test="take-back"
                @click="putAside(j, false)"
              />
            </li>
          </ul>
        </details>
      </template>
      <details v-if="deleted.length" data-test="deleted">
        <summary>{{ s.jobs.deleted(deleted.length) }}</summary>
        <ul>
          <li v-for="d in deleted" :key="d.id">
            <span class="gone"
              >{{ d.name }}
              <span class="quiet"
                >{{ when(d.deleted) }} ·
                {{ d.days_left == null ? s.jobs.onRecord(d.entries) : s.jobs.daysLeft(d.days_left) }}</span
              ></span
            >
            <Button
              size="small"
              text
              :label="s.jobs.undo"
              :aria-label="`${s.jobs.undo}: ${d.name}`"
              @click="putBack(d.id)"
            />
          </li>
        </ul>
      </details>
      <p class="quiet model">{{ s.model }}</p>
      <LanguageChoice class="quiet" />
    </main>
    <Dialog
      :visible="naming !== null"
      modal
      :header="naming?.job ? s.jobs.rename : s.jobs.new"
      :style="{ width: 'min(440px, 94vw)' }"
      @update:visible="naming = null"
    >
      <form v-if="naming" class="naming" @submit.prevent="named">
        <label for="job-name">{{ s.jobs.newName }}</label>
        <InputText id="job-name" v-model="naming.name" :maxlength="longest('name')" autofocus data-test="job-name" />
        <template v-if="!naming.job && ways.length">
          <label id="job-way">{{ s.jobs.startWith }}</label>
          <Select
            v-model="naming.way"
            :options="waysToStart"
            option-label="name"
            option-value="id"
            aria-labelledby="job-way"
            data-test="job-way"
          />
        </template>
        <p v-if="error" role="alert" class="bad">{{ error }}</p>
        <div class="row">
          <Button type="button" severity="secondary" :label="s.jobs.cancel" @click="naming = null" />
          <Button
            type="submit"
            :label="naming.job ? s.jobs.save : s.jobs.create"
            :disabled="!naming.name.trim()"
            data-test="name-it"
          />
        </div>
      </form>
    </Dialog>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 14px 20px;
  color: var(--shell-ink);
  background: var(--shell);
}
.bar :deep(.p-button-text) {
  color: inherit;
}
.to-people {
  padding: 8px;
  color: inherit;
}
.bar :deep(.mark) {
  width: 44px;
  height: 44px;
}
.word {
  flex: 1;
}
h1 {
  font-size: 1.5rem;
  line-height: 1.1;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-bottom: 14px;
}
h2 {
  flex: 1;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-top: 3px solid var(--shell);
  margin-bottom: 10px;
}
.tools {
  display: grid;
  grid-template-columns: auto auto;
  align-self: start;
  padding: 6px 8px;
}
.gone {
  flex: 1;
  padding: 10px 16px;
}
summary {
  min-height: 36px;
  margin-top: 18px;
}
.risks {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin: 0 0 8px;
}
.empty {
  padding: 40px 20px;
  text-align: center;
  border: 2px dashed var(--line);
}
.model {
  margin-top: 28px;
}
.naming {
  display: grid;
  gap: 8px;
}
.bad {
  color: var(--leak);
}
.row {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}
</style>
