<script setup lang="ts">
import { ref } from "vue";
import { s } from "../strings";

/** A few words of whoever is at the wall. */
defineProps<{ ask: string; tonight: string[] }>();
const emit = defineEmits<{ keep: [note: string]; close: [] }>();
const note = ref("");
</script>

<template>
  <section class="sheet" role="dialog" :aria-label="ask" data-test="say">
    <template v-if="tonight.length">
      <h2>{{ s.site.tonight }}</h2>
      <p v-for="(t, i) in tonight" :key="i" class="put">{{ t }}</p>
    </template>
    <label>
      {{ ask }}
      <textarea v-model="note" rows="4" maxlength="1000" data-test="note"></textarea>
    </label>
    <div class="row">
      <button @click="emit('close')">{{ s.site.cancel }}</button>
      <button class="keep" :disabled="note.trim() === ''" data-test="say-keep" @click="emit('keep', note.trim())">
        {{ s.site.keep }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.sheet {
  position: fixed;
  inset: 0;
  z-index: 20;
  display: flex;
  flex-direction: column;
  gap: 14px;
  padding: 18px 14px;
  overflow-y: auto;
  background: var(--sheet);
}
h2 {
  margin: 0;
}
.put {
  margin: 0;
  padding: 8px 12px;
  font-size: 1.15rem;
  background: var(--glue-soft);
  border-left: 5px solid var(--glue);
}
label {
  display: grid;
  gap: 8px;
  font-size: 1.3rem;
  font-weight: 650;
}
textarea {
  padding: 10px;
  font: inherit;
  font-size: 1.2rem;
  font-weight: 400;
  color: var(--ink);
  background: var(--paper);
  border: 1.5px solid var(--ink);
}
.row {
  display: flex;
  gap: 10px;
}
button {
  flex: 1;
  min-height: 60px;
  font: inherit;
  font-size: 1.2rem;
  font-weight: 650;
  color: var(--ink);
  background: var(--paper);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
.keep {
  color: var(--shell-ink);
  background: var(--shell);
}
button:disabled {
  opacity: 0.45;
}
</style>
