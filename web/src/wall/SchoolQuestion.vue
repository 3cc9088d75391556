<script setup lang="ts">
import { computed, ref } from "vue";
import type { Question } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";
import ChoicePick from "./ChoicePick.vue";

/** A question with its answer; pressed, all answers stand beside each other as pictures. */
const props = defineProps<{
  question: Question;
  /** At which opening it is asked; empty for the wall. */
  opening: string;
}>();
const job = useJob();
const emit = defineEmits<{ answer: [choice: string | null] }>();
const chosen = computed(() => props.question.choices.find((c) => c.id === props.question.choice));
const id = computed(() => `q-${props.opening}-${props.question.id}`);
const picking = ref(false);
</script>

<template>
  <div class="question" :data-question="question.id">
    <span :id="`${id}-ask`" class="ask">{{ question.ask }}</span>
    <button
      :id="id"
      class="answer"
      aria-haspopup="dialog"
      :aria-expanded="picking"
      :aria-labelledby="`${id}-ask ${id}`"
      :disabled="!job.mayChange"
      @click="picking = true"
    >
      {{ chosen?.name }}
    </button>
    <button v-if="question.own && job.mayChange" class="plain" @click="emit('answer', null)">{{ s.made.reset }}</button>
    <ChoicePick v-model:visible="picking" :question="question" :opening="opening" @answer="(c) => emit('answer', c)" />
  </div>
</template>

<style scoped>
.question {
  padding: 5px 0;
}
.ask {
  display: block;
  font-size: 0.82rem;
  color: var(--ink-soft);
}
.answer {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  min-height: 36px;
  padding: 4px 10px;
  font: inherit;
  font-weight: 600;
  color: inherit;
  text-align: left;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 4px;
  cursor: pointer;
}
.answer::after {
  content: "▸";
}
.answer:hover:not(:disabled) {
  border-color: var(--shell);
}
.answer:disabled {
  cursor: default;
}
.plain {
  padding: 2px 0;
  font: inherit;
  font-size: 0.82rem;
  color: inherit;
  text-decoration: underline;
  background: none;
  border: 0;
  cursor: pointer;
}
@media (max-width: 760px) {
  .answer {
    min-height: 48px;
  }
}
</style>
