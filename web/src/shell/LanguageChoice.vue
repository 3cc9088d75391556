<script setup lang="ts">
import { ref } from "vue";
import { LANGUAGES, language, speak, type Language } from "../lib/language";
import { s } from "../strings";

const notKept = ref(false);

/** In which language the interface is; each is named in itself. */
function chosen(e: Event) {
  const choice = e.target as HTMLSelectElement;
  notKept.value = !speak(choice.value as Language);
  if (notKept.value) choice.value = language;
}
</script>

<template>
  <label class="language">
    {{ s.language }}
    <select :value="language" data-test="language" @change="chosen">
      <option v-for="(name, id) in LANGUAGES" :key="id" :value="id" :lang="id">{{ name }}</option>
    </select>
    <small v-if="notKept" role="alert">{{ s.languageNotKept }}</small>
    <small v-else-if="language !== 'en'">{{ s.languageHelp }}</small>
  </label>
</template>

<style scoped>
.language {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
}
small {
  font-size: 0.9rem;
  font-weight: 400;
}
select {
  min-height: 44px;
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 6px;
}
</style>
