<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";
import type { PracticeAnswer, SceneView } from "../api/client";
import { piecesOf } from "../lib/practice";
import { s } from "../strings";
import PracticeWall from "./PracticeWall.vue";

/** A finished wall with something wrong: what is touched is marked, and named. */
const props = defineProps<{ scene: SceneView; busy: boolean }>();
const emit = defineEmits<{ answer: [answer: PracticeAnswer] }>();
const marks = ref<{ piece: string; fault: string }[]>([]);
const pieces = computed(() => piecesOf(props.scene));
const nameOf = (id: string) => pieces.value.find((p) => p.id === id)?.name ?? id;
function mark(piece: string) {
  if (!piece) return;
  const there = marks.value.findIndex((m) => m.piece === piece);
  if (there >= 0) marks.value.splice(there, 1);
  else marks.value.push({ piece, fault: "" });
}
function picked(e: Event) {
  const select = e.target as HTMLSelectElement;
  mark(select.value);
  select.value = "";
}
</script>

<template>
  <div class="find">
    <PracticeWall
      :elevation="scene.elevation"
      touch
      :marked="marks.map((m) => m.piece)"
      @piece="(shape) => mark(shape.piece)"
    />
    <section>
      <h3>{{ s.practice.toFind(scene.to_find) }}</h3>
      <p>{{ s.practice.findHelp }}</p>
      <label
        >{{ s.practice.orChoose }}
        <select data-test="mark-piece" @change="picked">
          <option value=""></option>
          <option v-for="p in pieces" :key="p.id" :value="p.id">{{ p.name }}</option>
        </select>
      </label>
      <ul class="marks">
        <li v-for="m in marks" :key="m.piece" data-test="mark">
          <b>{{ nameOf(m.piece) }}</b>
          <select v-model="m.fault" :aria-label="s.practice.whichFault(nameOf(m.piece))">
            <option value="">{{ s.practice.unnamed }}</option>
            <option v-for="f in scene.names" :key="f.id" :value="f.id">{{ f.name }}</option>
          </select>
          <Button
            size="small"
            text
            severity="secondary"
            :label="s.practice.unmark"
            :aria-label="`${s.practice.unmark}: ${nameOf(m.piece)}`"
            @click="mark(m.piece)"
          />
        </li>
      </ul>
      <Button
        :label="s.practice.thatIsIt"
        :disabled="marks.length === 0 || busy"
        data-test="found-all"
        @click="emit('answer', { drill: 'find', marks, hints: 0 })"
      />
    </section>
  </div>
</template>

<style scoped>
.find {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(240px, 2fr);
  gap: 16px;
}
h3 {
  margin: 0;
}
select {
  width: 100%;
  min-height: 44px;
  font: inherit;
}
.marks {
  margin: 10px 0;
  padding: 0;
  list-style: none;
}
.marks li {
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
section > :deep(button) {
  min-height: 48px;
}
@media (max-width: 760px) {
  .find {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
