<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";
import type { PracticeAnswer, SceneView } from "../api/client";
import { inchesOf } from "../lib/practice";
import { s } from "../strings";
import StepPicture from "../wall/StepPicture.vue";
import TapePull from "./TapePull.vue";

/** Cut sizes from an opening and the rules; too short is worse than too long. */
const props = defineProps<{ scene: SceneView; busy: boolean }>();
const emit = defineEmits<{ answer: [answer: PracticeAnswer] }>();
const typed = ref<string[]>(props.scene.sizes.map(() => ""));
const read = computed(() => typed.value.map(inchesOf));
const opening = computed(() => props.scene.elevation.openings[0] ?? null);
function give() {
  const sizes = read.value.flatMap((length, i) => {
    const width = props.scene.sizes[i]?.width;
    return length && width ? [{ length, width }] : [];
  });
  emit("answer", { drill: "measure", sizes });
}
</script>

<template>
  <form class="measure" @submit.prevent="give">
    <TapePull v-if="opening" :opening="opening" />
    <article v-for="(a, i) in scene.sizes" :key="a.name">
      <StepPicture v-if="a.picture" :picture="a.picture" class="small" />
      <div>
        <h3>{{ a.name }}</h3>
        <p>{{ s.practice.fromRoll(a.product.toLowerCase(), a.width) }}</p>
        <p v-for="(r, n) in a.rules" :key="n" class="rule">{{ r }}</p>
        <label
          >{{ s.practice.length }}
          <input v-model="typed[i]" inputmode="text" autocomplete="off" :data-measure="i" @keydown.stop />
        </label>
        <p v-if="typed[i] && !read[i]" role="alert" class="bad">{{ s.practice.notASize }}</p>
      </div>
    </article>
    <Button
      type="submit"
      :label="s.practice.cut"
      :disabled="read.some((r) => r === null) || busy"
      data-test="cut-them"
    />
  </form>
</template>

<style scoped>
article {
  display: grid;
  grid-template-columns: 260px minmax(0, 1fr);
  gap: 16px;
  padding: 12px 0;
  border-bottom: 1px solid var(--line);
}
.small {
  height: 190px;
  border: 1px solid var(--line);
}
h3,
p {
  margin: 0 0 6px;
}
.rule {
  padding-left: 10px;
  border-left: 3px solid var(--line);
}
input {
  min-height: 44px;
  padding: 0 10px;
  font: inherit;
  font-size: 1.1rem;
}
.bad {
  color: var(--leak);
}
.measure > :deep(button) {
  min-height: 48px;
  margin-top: 12px;
}
@media (max-width: 760px) {
  article {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
