<script setup lang="ts">
import Button from "primevue/button";
import { ref } from "vue";

/** Chooses a file by a button of the application's own; the bare control stands behind it. */
defineProps<{ label: string; accept: string; test: string; chosen?: string; severity?: string }>();
const emit = defineEmits<{ chosen: [file: File] }>();
const input = ref<HTMLInputElement | null>(null);
function take() {
  const file = input.value?.files?.[0];
  if (file) emit("chosen", file);
  // The same file can be chosen again after it was changed.
  if (input.value) input.value.value = "";
}
</script>

<template>
  <span class="pick">
    <Button size="small" :severity="severity ?? 'secondary'" :label="label" @click="input?.click()" />
    <input
      ref="input"
      type="file"
      class="visually-hidden"
      tabindex="-1"
      :accept="accept"
      :aria-label="label"
      :data-test="test"
      @change="take"
    />
    <span v-if="chosen" class="quiet">{{ chosen }}</span>
  </span>
</template>

<style scoped>
.pick {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
</style>
