<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";
import { api } from "../api/client";
import { locale } from "../lib/language";
import { s } from "../strings";
import { useMe } from "../stores/me";

/** What changed with one's account, until one says that one saw it. */
const me = useMe();
const lines = computed(() => me.me?.changed ?? []);
const words: Record<string, string> = s.people.happened;
const when = (iso: string) => new Date(iso).toLocaleString(locale, { dateStyle: "medium", timeStyle: "short" });
async function saw() {
  const last = lines.value.at(-1);
  if (!last) return;
  await api.POST("/api/me/saw", { body: { line: last.id } }).catch(() => undefined);
  await me.load();
}
</script>

<template>
  <section v-if="lines.length" class="news" role="status" data-test="account-news">
    <h2>{{ s.people.news }}</h2>
    <ul>
      <li v-for="l in lines" :key="l.id">
        {{ when(l.at) }}: {{ words[l.what] ?? l.what }}<template v-if="l.who">, {{ l.who }}</template>
      </li>
    </ul>
    <p>{{ s.people.notYou }}</p>
    <Button size="small" :label="s.people.saw" data-test="account-saw" @click="saw" />
  </section>
</template>

<style scoped>
.news {
  margin-bottom: 20px;
  padding: 12px 16px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 4px solid var(--water);
}
h2 {
  font-size: 1.05rem;
}
ul {
  margin: 6px 0;
  padding-left: 20px;
}
p {
  margin: 6px 0 10px;
}
</style>
