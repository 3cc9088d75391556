<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Select from "primevue/select";
import { computed, ref } from "vue";
import type { Corner, Level, TopShape } from "../api/client";
import { longest, range } from "../lib/limits";
import { useJob } from "../stores/job";
import { s } from "../strings";
import SizeField from "../fields/SizeField.vue";

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
const shapes = Object.entries(s.walls.shapes).map(([value, label]) => ({ value: value as TopShape, label }));
const names = computed(() => [wall.value?.name ?? "", ...corners.value.map((c) => c.name)]);
const top = ref<{ wall: number; shape: TopShape; low: string }>({ wall: 0, shape: "gable", low: "" });
async function shape() {
  const { wall: w, shape: kind, low } = top.value;
  const height = plain(wall.value?.height ?? "");
  await job.change(
    { edit: "shape_top", wall: w, shape: kind, low: low.trim() || height },
    s.walls.top(names.value[w] ?? ""),
  );
}
const levels = computed<Level[]>(() => wall.value?.levels ?? []);
const level = ref<Level>({ kind: "soil", at: "", name: "" });
const levelKinds = Object.entries(s.walls.level).map(([value, label]) => ({ value: value as Level["kind"], label }));
const setLevels = (list: Level[]) => job.change({ edit: "set_wall", levels: list }, s.walls.levels);
async function addLevel() {
  const { kind: k, at: height, name: called } = level.value;
  if (!height.trim()) return;
  if (await setLevels([...levels.value, { kind: k, at: height, name: called.trim() || s.walls.level[k] }]))
    level.value = { kind: k, at: "", name: "" };
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
      of="name"
      @set="(t) => job.change({ edit: 'set_wall', name: t }, s.walls.title)"
    />
    <SizeField
      :label="s.walls.whole"
      :value="plain(wall.width)"
      test="wall-width"
      of="wall_width"
      @set="(t) => job.change({ edit: 'set_wall', width: t }, s.sizes.wall)"
    />
    <SizeField
      :label="s.sizes.height"
      :value="plain(wall.height)"
      test="wall-height"
      of="wall_height"
      @set="(t) => job.change({ edit: 'set_wall', height: t }, s.sizes.wall)"
    />
    <div v-for="(c, i) in corners" :key="i" class="corner" data-test="corner">
      <SizeField :label="`${s.walls.corner} ${i + 1}`" :value="plain(c.at)" @set="(t) => change(i, { at: t })" />
      <SizeField :label="s.walls.behind" :value="c.name" of="name" @set="(t) => change(i, { name: t })" />
      <p class="row">
        <span class="quiet">{{ c.kind === "outside" ? s.walls.outside : s.walls.inside }}</span>
        <Button size="small" text :label="s.walls.remove" @click="set(corners.filter((_, k) => k !== i))" />
      </p>
    </div>
    <form v-if="job.mayChange" class="row" data-test="add-corner" @submit.prevent="add">
      <InputText v-model="at" size="small" :placeholder="s.walls.at" :aria-label="s.walls.at" @keydown.stop />
      <Select
        v-model="kind"
        size="small"
        :options="kinds"
        option-label="label"
        option-value="value"
        :aria-label="s.walls.kind"
      />
      <InputText
        v-model="name"
        size="small"
        :placeholder="s.walls.name"
        :maxlength="longest('name')"
        :aria-label="s.walls.name"
        @keydown.stop
      />
      <Button type="submit" size="small" severity="secondary" :label="s.walls.add" />
    </form>
    <form v-if="job.mayChange" class="row" data-test="top" @submit.prevent="shape">
      <Select
        v-if="names.length > 1"
        v-model="top.wall"
        size="small"
        :options="names.map((label, value) => ({ label: s.walls.top(label), value }))"
        option-label="label"
        option-value="value"
        :aria-label="s.walls.title"
      />
      <Select
        v-model="top.shape"
        input-id="top-shape"
        size="small"
        :options="shapes"
        option-label="label"
        option-value="value"
        :aria-label="s.walls.top('')"
      />
      <InputText
        v-if="top.shape !== 'level'"
        v-model="top.low"
        size="small"
        :placeholder="s.walls.low"
        :aria-label="s.walls.low"
        @keydown.stop
      />
      <Button type="submit" size="small" severity="secondary" :label="s.sizes.set" />
    </form>
    <h3>{{ s.walls.levels }}</h3>
    <p v-for="(l, i) in levels" :key="i" class="row" data-test="level">
      <span>{{ l.name }} · {{ s.walls.level[l.kind] }} · {{ plain(l.at) }} {{ s.walls.levelAt }}</span>
      <Button
        size="small"
        text
        :label="s.walls.removeIt"
        :aria-label="s.walls.removeLevel(l.name)"
        @click="setLevels(levels.filter((_, k) => k !== i))"
      />
    </p>
    <form v-if="job.mayChange" class="row" data-test="add-level" @submit.prevent="addLevel">
      <Select
        v-model="level.kind"
        input-id="level-kind"
        size="small"
        :options="levelKinds"
        option-label="label"
        option-value="value"
        :aria-label="s.walls.kind"
      />
      <InputText
        v-model="level.at"
        size="small"
        :placeholder="s.walls.levelHelp"
        :title="range(level.kind === 'floor' ? 'floor_line' : 'grade_line')"
        :aria-label="s.walls.levelAt"
        @keydown.stop
      />
      <InputText
        v-model="level.name"
        size="small"
        :placeholder="s.walls.levelName"
        :maxlength="longest('name')"
        :aria-label="s.walls.levelName"
        @keydown.stop
      />
      <Button type="submit" size="small" severity="secondary" :label="s.walls.addLevel" />
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
