<script setup lang="ts">
import Dialog from "primevue/dialog";
import { computed, ref, shallowRef, watch } from "vue";
import { api, type Choices, type Question } from "../api/client";
import { newest } from "../lib/requests";
import { useJob } from "../stores/job";
import { s } from "../strings";
import ChoicePicture from "./ChoicePicture.vue";

/** The answers to a question as pictures of the wall made each way. */
const props = defineProps<{ question: Question; opening: string }>();
const open = defineModel<boolean>("visible", { required: true });
const emit = defineEmits<{ answer: [choice: string] }>();
const job = useJob();
const pictures = shallowRef<Choices | null>(null);
const of = computed(() => new Map((pictures.value?.choices ?? []).map((c) => [c.choice, c])));
/** The answers have pictures, as far as is known. */
const drawn = computed(() => waits.value || [...of.value.values()].some((c) => c.section ?? c.apart));
const waits = ref(false);
/** Pieces that are not in every picture stand out. */
const differing = computed(() => {
  const runsOf = (c: Choices["choices"][number]) => c.section?.built?.runs ?? [];
  const all = [...of.value.values()].filter((c) => c.section);
  const everywhere = (name: string) => all.every((c) => runsOf(c).some((r) => r.name === name));
  const own = (c: Choices["choices"][number]) => runsOf(c).filter((r) => !everywhere(r.name));
  return new Map(all.map((c) => [c.choice, own(c).map((r) => r.piece)]));
});
watch(open, async (shown) => {
  const id = job.state?.id;
  if (!shown || !id) return;
  pictures.value = null;
  waits.value = true;
  const where = props.opening ? { opening: props.opening } : { wall: job.wall };
  const params = { path: { id }, query: { question: props.question.id, ...where } };
  // Without pictures the answers stand there in words.
  const data = await newest("choices", (signal) => api.GET("/api/jobs/{id}/choices", { params, signal })).catch(
    () => null,
  );
  waits.value = false;
  if (data && id === job.state?.id) pictures.value = data;
});
function take(choice: string) {
  open.value = false;
  if (choice !== props.question.choice) emit("answer", choice);
}
</script>

<template>
  <Dialog v-model:visible="open" modal dismissable-mask :header="question.ask" class="choice-pick">
    <ul :class="['choices', { drawn }]" data-test="choices">
      <li v-for="c in question.choices" :key="c.id">
        <button
          :aria-pressed="c.id === question.choice"
          :disabled="c.refused !== ''"
          :data-choice="c.id"
          @click="take(c.id)"
        >
          <ChoicePicture v-if="drawn" :picture="of.get(c.id)" :marked="differing.get(c.id)" />
          <b>{{ c.name }}</b>
          <small v-if="c.refused">{{ s.made.refused }}: {{ c.refused }}</small>
          <template v-else>
            <small>{{ c.good }}</small>
            <small class="asks">{{ s.made.asks }}: {{ c.asks }}</small>
          </template>
        </button>
      </li>
    </ul>
  </Dialog>
</template>

<style>
@layer kame {
  .choice-pick {
    width: min(1100px, 96vw);
  }
}
</style>

<style scoped>
.choices {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 12px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
}
button {
  display: flex;
  flex-direction: column;
  gap: 3px;
  width: 100%;
  padding: 10px 12px;
  font: inherit;
  color: inherit;
  text-align: left;
  background: var(--sheet);
  border: 1.5px solid var(--line);
  cursor: pointer;
}
button:hover:not(:disabled) {
  border-color: var(--shell);
}
button[aria-pressed="true"] {
  border: 3px solid var(--shell);
  padding: 8.5px 10.5px;
}
button:disabled {
  color: var(--ink-soft);
  cursor: default;
}
.asks {
  color: var(--ink-soft);
}
</style>
