<script setup lang="ts">
import Select from "primevue/select";
import { computed } from "vue";
import type { Question } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** At which opening it is asked; empty for the wall. */
const props = defineProps<{ question: Question; opening: string }>();
const job = useJob();
const emit = defineEmits<{ answer: [choice: string | null] }>();
const chosen = computed(() => props.question.choices.find((c) => c.id === props.question.choice));
const id = computed(() => `q-${props.opening}-${props.question.id}`);
</script>

<template>
  <div class="question" :data-question="question.id">
    <label :for="id">{{ question.ask }}</label>
    <Select
      :model-value="question.choice"
      :input-id="id"
      :options="question.choices"
      option-label="name"
      option-value="id"
      :option-disabled="(c) => c.refused !== ''"
      size="small"
      :disabled="!job.mayChange"
      scroll-height="420px"
      @update:model-value="(c: string) => emit('answer', c)"
    >
      <template #option="{ option }">
        <span class="option" :data-choice="option.id">
          <span>{{ option.name }}</span>
          <small v-if="option.refused">{{ s.made.refused }}: {{ option.refused }}</small>
          <small v-else>{{ option.good }}</small>
        </span>
      </template>
    </Select>
    <p v-if="chosen" class="quiet">
      {{ chosen.good }} <i>{{ s.made.asks }}: {{ chosen.asks }}</i>
      <button v-if="question.own && job.mayChange" class="plain" @click="emit('answer', null)">
        {{ s.made.reset }}
      </button>
    </p>
  </div>
</template>

<style scoped>
.question {
  padding: 6px 0;
}
label {
  display: block;
  font-size: 0.88rem;
  font-weight: 600;
}
.question :deep(.p-select) {
  width: 100%;
}
.option {
  display: flex;
  flex-direction: column;
  max-width: 300px;
  white-space: normal;
}
.quiet {
  margin-top: 3px;
  font-size: 0.82rem;
}
.plain {
  font: inherit;
  color: inherit;
  text-decoration: underline;
  background: none;
  border: 0;
  cursor: pointer;
}
</style>
