<script setup lang="ts">
import Button from "primevue/button";
import { ref, watch } from "vue";
import { api, sentence, type AnswerSheet, type PracticeAnswer, type SceneOf } from "../api/client";
import { hintBySheet } from "../lib/sheet";
import { s } from "../strings";

/** A hint about what was answered so far; each costs points, which the answer carries. */
const props = defineProps<{
  of: SceneOf;
  answer: PracticeAnswer;
  busy: boolean;
  /** What every answer gives, for where nobody can be asked. */
  sheet: () => Promise<AnswerSheet | null>;
}>();
const hints = defineModel<number>({ required: true });
const says = ref("");
/** True while a hint stands there. */
const given = ref(false);
const asking = ref(false);
async function ask() {
  asking.value = true;
  try {
    const { data, error } = await api.POST("/api/practice/hint", { body: { of: props.of, answer: props.answer } });
    says.value = data?.says ?? sentence(error, s.repair.silent);
    given.value = Boolean(data);
  } catch {
    const sheet = await props.sheet();
    const hint = sheet && hintBySheet(sheet, props.answer);
    says.value = hint ?? s.repair.silent;
    given.value = Boolean(hint);
  }
  if (given.value) hints.value++;
  asking.value = false;
}
/** What was said is about what was done until then; until something else is done there is no other hint. */
watch(
  () => JSON.stringify(props.answer, (key, value: unknown) => (key === "hints" ? undefined : value)),
  () => {
    says.value = "";
    given.value = false;
  },
);
</script>

<template>
  <div class="hint">
    <Button
      severity="secondary"
      :label="s.practice.hint(hints)"
      :disabled="busy || asking || given"
      data-test="hint"
      @click="ask"
    />
    <p role="status" data-test="hint-says">{{ says }}</p>
  </div>
</template>

<style scoped>
.hint {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  margin: 10px 0;
}
.hint :deep(button) {
  min-height: 48px;
}
p {
  margin: 0;
  font-weight: 600;
}
</style>
