<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import { onMounted, ref, shallowRef } from "vue";
import { api, sentence, type KeptWay } from "../api/client";
import KameMark from "../shell/KameMark.vue";
import { useMe } from "../stores/me";
import { locale } from "../lib/language";
import { s } from "../strings";

/** The firm's ways of building. */
const me = useMe();
const ways = shallowRef<KeptWay[] | null>(null);
const error = ref("");
const going = ref<number | null>(null);
async function load() {
  const { data, error: problem } = await api.GET("/api/ways").catch(() => ({ data: undefined, error: undefined }));
  if (data) ways.value = data;
  error.value = data ? "" : sentence(problem, s.errors.offline);
}
onMounted(load);
async function forget(id: number) {
  const params = { path: { id } };
  const { error: problem, response } = await api
    .DELETE("/api/ways/{id}", { params })
    .catch(() => ({ error: undefined, response: undefined }));
  going.value = null;
  await load();
  if (!response?.ok) error.value = sentence(problem, s.errors.offline);
}
const day = (iso: string) => new Date(iso).toLocaleDateString(locale, { dateStyle: "medium" });
</script>

<template>
  <div>
    <header class="top">
      <RouterLink class="home" to="/" :aria-label="s.jobs.title"><KameMark /></RouterLink>
      <h1>{{ s.ways.title }}</h1>
    </header>
    <main class="page">
      <p class="quiet">{{ s.ways.lead }}</p>
      <Message v-if="error" severity="error" data-test="error">{{ error }}</Message>
      <p v-if="ways?.length === 0" class="empty">{{ s.ways.none }}</p>
      <ul v-else>
        <li v-for="w in ways" :key="w.id" data-test="way">
          <span class="name"
            ><b>{{ w.name }}</b>
            <span class="quiet"
              >{{ s.ways.followers(w.followers) }} · {{ s.ways.kept(day(w.changed), w.who) }}</span
            ></span
          >
          <template v-if="me.may('builder')">
            <Button
              v-if="going === w.id"
              size="small"
              severity="danger"
              :label="s.ways.reallyForget"
              data-test="really-forget"
              @click="forget(w.id)"
            />
            <Button
              v-else
              size="small"
              text
              severity="danger"
              :label="s.ways.forget"
              :aria-label="`${s.ways.forget}: ${w.name}`"
              @click="going = w.id"
            />
          </template>
        </li>
      </ul>
    </main>
  </div>
</template>

<style scoped>
.top {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 10px 20px;
  color: var(--shell-ink);
  background: var(--shell);
}
.home :deep(.mark) {
  width: 40px;
  height: 40px;
}
h1 {
  font-size: 1.3rem;
}
ul {
  margin: 12px 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-bottom: 10px;
  padding: 12px 16px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-top: 3px solid var(--shell);
}
.name {
  display: grid;
  flex: 1;
}
.empty {
  padding: 30px 20px;
  text-align: center;
  border: 2px dashed var(--line);
}
</style>
