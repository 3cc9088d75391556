<script setup lang="ts">
import InputText from "primevue/inputtext";
import { ref, useId, watch } from "vue";

/** One exact size: what is typed goes to the core as it stands; Enter or leaving the field sets it. */
const props = defineProps<{ label: string; value: string; test?: string }>();
const emit = defineEmits<{ set: [text: string] }>();
const id = useId();
const text = ref(props.value);
watch(
  () => props.value,
  (v) => {
    text.value = v;
    sent = "";
  },
);
/** What was sent last: leaving the field after Enter does not send it again. */
let sent = "";
function set() {
  const wanted = text.value.trim();
  if (wanted && wanted === sent) return;
  if (wanted && wanted !== props.value) emit("set", (sent = wanted));
  else text.value = props.value;
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <InputText
      :id="id"
      v-model="text"
      size="small"
      autocomplete="off"
      :data-test="test"
      @keydown.enter="set"
      @keydown.escape="text = value"
      @blur="set"
      @keydown.stop
    />
    <slot />
  </div>
</template>

<style scoped>
.field {
  display: grid;
  grid-template-columns: 1fr 112px;
  gap: 2px 10px;
  align-items: center;
  padding: 3px 0;
}
.field :deep(input) {
  width: 100%;
  text-align: right;
}
</style>
