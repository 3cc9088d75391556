<script setup lang="ts">
import InputText from "primevue/inputtext";
import { ref } from "vue";
import { s } from "../strings";

/** A password, which can be shown: in gloves and sun nobody types it right unseen. */
defineProps<{ id: string; autocomplete: string; describedby?: string | undefined }>();
const text = defineModel<string>({ required: true });
const shown = ref(false);
</script>

<template>
  <span class="password">
    <InputText
      :id="id"
      v-model="text"
      :type="shown ? 'text' : 'password'"
      :autocomplete="autocomplete"
      autocapitalize="off"
      spellcheck="false"
      maxlength="200"
      required
      :aria-describedby="describedby"
      :data-test="id"
    />
    <button type="button" :aria-pressed="shown" :data-test="`show-${id}`" @click="shown = !shown">
      {{ shown ? s.people.hide : s.people.show }}
    </button>
  </span>
</template>

<style scoped>
.password {
  display: flex;
}
.password :deep(input) {
  flex: 1;
  min-width: 0;
}
button {
  min-width: 72px;
  min-height: 44px;
  font: inherit;
  font-weight: 650;
  color: inherit;
  background: none;
  border: 1px solid var(--line);
  border-left: 0;
  cursor: pointer;
}
</style>
