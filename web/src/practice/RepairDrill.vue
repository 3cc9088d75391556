<script setup lang="ts">
import Button from "primevue/button";
import { ref } from "vue";
import type { PracticeAnswer, SceneView } from "../api/client";
import { s } from "../strings";
import StepPicture from "../wall/StepPicture.vue";

/** Something was found on a finished wall: which repair is right. */
const props = defineProps<{ scene: SceneView; busy: boolean }>();
const emit = defineEmits<{ answer: [answer: PracticeAnswer] }>();
const choices = ref<(number | null)[]>(props.scene.found.map(() => null));
const give = () => emit("answer", { drill: "repair", choices: choices.value.filter((c): c is number => c !== null) });
</script>

<template>
  <div>
    <article v-for="(f, i) in scene.found" :key="i">
      <StepPicture v-if="f.picture" :picture="f.picture" class="small" />
      <div>
        <h3>{{ f.says }}</h3>
        <div class="choices" role="group" :aria-label="f.says">
          <button
            v-for="(c, n) in f.choices"
            :key="n"
            :class="{ on: choices[i] === n }"
            :aria-pressed="choices[i] === n"
            :data-mend="`${i}-${n}`"
            @click="choices[i] = n"
          >
            {{ c }}
          </button>
        </div>
      </div>
    </article>
    <Button :label="s.practice.mendIt" :disabled="choices.includes(null) || busy" data-test="mend-it" @click="give" />
  </div>
</template>

<style scoped>
article {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 16px;
  padding: 12px 0;
  border-bottom: 1px solid var(--line);
}
.small {
  height: 220px;
  border: 1px solid var(--line);
}
h3 {
  margin: 0 0 8px;
}
.choices {
  display: grid;
  gap: 6px;
}
.choices button {
  min-height: 48px;
  padding: 4px 12px;
  font: inherit;
  font-weight: 650;
  color: var(--ink);
  text-align: left;
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
.choices .on {
  color: var(--shell-ink);
  background: var(--shell);
}
div > :deep(.p-button) {
  min-height: 48px;
  margin-top: 12px;
}
@media (max-width: 760px) {
  article {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
