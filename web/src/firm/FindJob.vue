<script setup lang="ts">
import InputText from "primevue/inputtext";
import { ref, shallowRef, watch } from "vue";
import { api, type FoundJob } from "../api/client";
import { failure, newest } from "../lib/requests";
import { s } from "../strings";

/** Jobs by a word: as it is typed, those in whose name or places it stands. */
const emit = defineEmits<{ found: [jobs: FoundJob[] | null] }>();
const text = ref("");
const found = shallowRef<FoundJob[] | null>(null);
const wrong = ref("");
const LONGEST = 100;
watch(text, async (now) => {
  wrong.value = "";
  if (now.trim() === "") {
    found.value = null;
    return emit("found", null);
  }
  try {
    const ask = (signal: AbortSignal) => api.GET("/api/search", { params: { query: { text: now } }, signal });
    const data = await newest("find-job", ask);
    if (!data || text.value !== now) return;
    found.value = data;
    emit("found", data);
  } catch (e) {
    wrong.value = failure(e);
  }
});
</script>

<template>
  <div class="find" role="search">
    <InputText
      v-model="text"
      type="search"
      :aria-label="s.jobs.find"
      :placeholder="s.jobs.find"
      :maxlength="LONGEST"
      data-test="find"
      @keydown.esc="text = ''"
    />
    <p v-if="wrong" role="alert" class="bad">{{ wrong }}</p>
    <div v-if="found" aria-live="polite">
      <p class="quiet">{{ s.jobs.found(found.length) }}</p>
      <ul data-test="found">
        <li v-for="j in found" :key="j.id">
          <RouterLink :to="{ name: 'wall', params: { id: String(j.id) } }">{{ j.name }}</RouterLink>
          <span v-if="j.archived" class="quiet"> · {{ s.jobs.isAside }}</span>
          <ul v-if="j.places.length">
            <li v-for="p in j.places" :key="p.place + p.name">
              <RouterLink
                :to="{
                  name: 'wall',
                  params: { id: String(j.id) },
                  query: p.place ? { place: p.place } : {},
                }"
                >{{ p.place ? `${p.place} · ${p.name}` : p.name }}</RouterLink
              >
            </li>
          </ul>
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.find {
  margin-bottom: 12px;
}
.find :deep(input) {
  width: min(480px, 100%);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
ul ul {
  padding-left: 18px;
}
li a {
  display: inline-block;
  padding: 6px 0;
}
.find p {
  margin: 8px 0 2px;
}
.bad {
  color: var(--leak);
}
</style>
