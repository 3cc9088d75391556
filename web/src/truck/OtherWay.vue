<script setup lang="ts">
import { computed, ref } from "vue";
import type { Edit, Question } from "../api/client";
import { s } from "../strings";

/** Another answer to one of the walls' questions, to see what it does to the days. */
const props = defineProps<{ questions: Question[] }>();
const emit = defineEmits<{ attempt: [label: string, change: Edit] }>();
/** What openings answer is asked at each of them, not here. */
const asked = computed(() => props.questions.filter((q) => q.openings.length === 0 && q.choices.length > 1));
const id = ref("");
const question = computed(() => asked.value.find((q) => q.id === id.value) ?? null);
const others = computed(() => question.value?.choices.filter((c) => c.id !== question.value?.choice) ?? []);
const now = computed(() => question.value?.choices.find((c) => c.id === question.value?.choice)?.name ?? "");

function attempt(e: Event) {
  const [q, choice] = [question.value, (e.target as HTMLSelectElement).value];
  const name = others.value.find((c) => c.id === choice)?.name;
  if (q && name) emit("attempt", `${q.ask} ${name}`, { edit: "set_school", question: q.id, choice });
}
</script>

<template>
  <details v-if="asked.length" class="other-way" data-test="other-way">
    <summary>{{ s.calendar.otherWay }}</summary>
    <p>
      <select v-model="id" :aria-label="s.calendar.otherWayOf" data-test="other-way-of">
        <option value="">{{ s.calendar.otherWayOf }}</option>
        <option v-for="q in asked" :key="q.id" :value="q.id">{{ q.ask }}</option>
      </select>
      <select v-if="question" :key="id" :aria-label="question.ask" data-test="other-way-to" @change="attempt">
        <option value="">{{ s.calendar.otherWayNow(now) }}</option>
        <option v-for="c in others" :key="c.id" :value="c.id">{{ c.name }}</option>
      </select>
    </p>
  </details>
</template>

<style scoped>
.other-way {
  margin: 6px 0;
}
summary {
  min-height: 32px;
  cursor: pointer;
}
p {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 4px 0;
}
select {
  max-width: 100%;
  min-height: 44px;
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 6px;
}
</style>
