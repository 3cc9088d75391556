<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Select from "primevue/select";
import { computed, ref } from "vue";
import type { Corner } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";
import SizeField from "./SizeField.vue";

/** The walls of the building, unfolded from left to right round their corners. */
const job = useJob();
const wall = computed(() => job.state?.job.wall ?? null);
const corners = computed<Corner[]>(() => wall.value?.corners ?? []);
const plain = (text: string) => text.replace(/ in$/, "");
const at = ref("");
const name = ref("");
const kind = ref<Corner["kind"]>("outside");
const kinds = computed(() => [
  { value: "outside", label: s.walls.outside },
  { value: "inside", label: s.walls.inside },
]);

const set = (list: Corner[]) => job.change({ edit: "set_wall", corners: list }, s.walls.title);
function change(i: number, with_: Partial<Corner>) {
  void set(corners.value.map((c, k) => (k === i ? { ...c, ...with_ } : c)));
}
async function add() {
  if (!at.value.trim()) return;
  const corner = { at: at.value, kind: kind.value, name: name.value.trim() || s.walls.next(corners.value.length + 2) };
  if (await set([...corners.value, corner])) [at.value, name.value] = ["", ""];
}
</script>

<template>
  <section v-if="wall" :aria-label="s.walls.title">
    <h3>{{ s.walls.title }}</h3>
    <SizeField
      :label="s.walls.first"
      :value="wall.name"
      @set="(t) => job.change({ edit: 'set_wall', name: t }, s.walls.title)"
    />
    <SizeField
      :label="s.walls.whole"
      :value="plain(wall.width)"
      test="wall-width"
      @set="(t) => job.change({ edit: 'set_wall', width: t }, s.sizes.wall)"
    />
    <SizeField
      :label="s.sizes.height"
      :value="plain(wall.height)"
      test="wall-height"
      @set="(t) => job.change({ edit: 'set_wall', height: t }, s.sizes.wall)"
    />
    <div v-for="(c, i) in corners" :key="i" class="corner" data-test="corner">
      <SizeField :label="`${s.walls.corner} ${i + 1}`" :value="plain(c.at)" @set="(t) => change(i, { at: t })" />
      <SizeField :label="s.walls.behind" :value="c.name" @set="(t) => change(i, { name: t })" />
      <p class="row">
        <span class="quiet">{{ c.kind === "outside" ? s.walls.outside : s.walls.inside }}</span>
        <Button size="small" text :label="s.walls.remove" @click="set(corners.filter((_, k) => k !== i))" />
      </p>
    </div>
    <form class="row" data-test="add-corner" @submit.prevent="add">
      <InputText v-model="at" size="small" :placeholder="s.walls.at" :aria-label="s.walls.at" @keydown.stop />
      <Select
        v-model="kind"
        size="small"
        :options="kinds"
        option-label="label"
        option-value="value"
        :aria-label="s.walls.kind"
      />
      <InputText v-model="name" size="small" :placeholder="s.walls.name" :aria-label="s.walls.name" @keydown.stop />
      <Button type="submit" size="small" severity="secondary" :label="s.walls.add" />
    </form>
  </section>
</template>

<style scoped>
h3 {
  margin: 16px 0 4px;
  font-size: 1rem;
  border-bottom: 1.5px solid var(--ink);
}
.corner {
  margin: 6px 0;
  padding-left: 8px;
  border-left: 3px solid var(--line);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  margin: 4px 0;
}
.row :deep(input) {
  flex: 1;
  min-width: 90px;
}
</style>
