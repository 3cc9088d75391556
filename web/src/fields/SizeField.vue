<script setup lang="ts">
import InputText from "primevue/inputtext";
import { computed, ref, useId, watch } from "vue";
import { limit, longest, range, type Limited } from "../lib/limits";

/** One exact size: what is typed goes to the core as it stands; Enter or leaving the field sets it. */
const props = defineProps<{ label: string; value: string; test?: string; of?: Limited }>();
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
/** A name is held to its length; a size says its range while it is typed. */
const isName = computed(() => props.of !== undefined && typeof limit(props.of).most === "number");
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
      :maxlength="of && isName ? longest(of) : undefined"
      :aria-describedby="of && !isName ? `${id}-range` : undefined"
      @keydown.enter="set"
      @keydown.escape="text = value"
      @blur="set"
      @keydown.stop
    />
    <p v-if="of && !isName" :id="`${id}-range`" class="range">{{ range(of) }}</p>
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
.range {
  display: none;
  grid-column: 2;
  margin: 0;
  font-size: 0.78rem;
  text-align: right;
  color: var(--quiet);
}
.field:focus-within .range {
  display: block;
}
.field :deep(input) {
  width: 100%;
  text-align: right;
}
</style>
