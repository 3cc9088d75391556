<script setup lang="ts">
import { LANGUAGES, language, speak, type Language } from "../lib/language";
import { s } from "../strings";

/** In which language the interface is; each is named in itself. */
function chosen(e: Event) {
  speak((e.target as HTMLSelectElement).value as Language);
}
</script>

<template>
  <label class="language">
    {{ s.language }}
    <select :value="language" data-test="language" @change="chosen">
      <option v-for="(name, id) in LANGUAGES" :key="id" :value="id" :lang="id">{{ name }}</option>
    </select>
    <small v-if="language !== 'en'">{{ s.languageHelp }}</small>
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
