<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import { computed } from "vue";
import { useRouter } from "vue-router";
import type { Question } from "../api/client";
import { useJob } from "../stores/job";
import { foldedOf, partsOf, questionsOf } from "../lib/answers";
import { s } from "../strings";
import BuildUpDrawing from "./BuildUpDrawing.vue";
import ProductsHere from "./ProductsHere.vue";
import SchoolQuestion from "./SchoolQuestion.vue";

const job = useJob();
const router = useRouter();
const questions = computed(() => job.view?.schools ?? []);
const openings = computed(() =>
  (job.view?.elevation.openings ?? []).map((o, i) => ({ label: `${o.id} · ${name(o.id)}`, value: i, id: o.id })),
);
const name = (id: string) => job.state?.job.openings?.find((o) => o.id === id)?.name ?? "";
const here = computed(() => openings.value[job.opening]?.id ?? "");
const names = computed(() => {
  const wall = job.state?.job.wall;
  const own = (schools: object | undefined) => (Object.keys(schools ?? {}).length ? ` · ${s.made.ofItsOwn}` : "");
  const rest = (wall?.corners ?? []).map((c, i) => ({ label: c.name + own(c.schools), value: i + 1 }));
  return [{ label: s.made.allWalls, value: 0 }, ...rest];
});
const groups = computed(() => [
  { title: s.made.wall, opening: "", ...foldedOf(questionsOf(questions.value, "")) },
  {
    title: here.value,
    opening: here.value,
    ...foldedOf(questions.value.filter((q) => q.openings.includes(here.value))),
  },
]);
function answer(q: Question, opening: string, choice: string | null) {
  const wall = opening ? null : job.wall;
  void job.change({ edit: "set_school", opening: opening || null, wall, question: q.id, choice }, q.ask);
}
function pickWall(i: number) {
  job.wall = i;
  void job.refresh();
}
function pick(i: number) {
  job.opening = i;
  void job.refresh();
}
const buildUps = computed(() => {
  const all = job.view?.build_ups ?? [];
  const name = job.wall ? names.value[job.wall]?.label.split(" · ")[0] : "";
  return name ? all.filter((b) => b.walls.includes(name)) : all;
});
const go = (route: string) => router.push({ name: route, params: { id: String(job.state?.id) } });
</script>

<template>
  <section class="schools" :aria-label="s.made.title">
    <p class="row">
      <Select
        v-if="openings.length > 1"
        :model-value="job.opening"
        :options="openings"
        option-label="label"
        option-value="value"
        size="small"
        :aria-label="s.made.opening"
        data-test="which-opening"
        @update:model-value="pick"
      />
      <Button size="small" severity="secondary" :label="s.made.compare" data-test="to-compare" @click="go('compare')" />
      <Button size="small" severity="secondary" :label="s.made.sheet" data-test="to-sheet" @click="go('sheet')" />
    </p>
    <template v-for="g in groups" :key="g.title">
      <h3 v-if="g.front.length">{{ g.title }}</h3>
      <p v-if="g.title === s.made.wall && names.length > 1" class="row">
        <Select
          :model-value="job.wall"
          input-id="which-wall"
          :options="names"
          option-label="label"
          option-value="value"
          size="small"
          :aria-label="s.made.whichWall"
          data-test="which-wall"
          @update:model-value="pickWall"
        />
        <span class="quiet help">{{ job.wall ? s.made.oneWallHelp : s.made.allWallsHelp }}</span>
      </p>
      <div v-for="part in partsOf(g.front)" :key="g.opening + part.about" class="part">
        <h4>{{ s.made.about[part.about] }}</h4>
        <SchoolQuestion
          v-for="q in part.questions"
          :key="g.opening + q.id"
          :question="q"
          :opening="g.opening"
          @answer="(c) => answer(q, g.opening, c)"
        />
      </div>
      <details v-if="g.folded.length" class="seldom" :data-test="'seldom-' + (g.opening || 'wall')">
        <summary>{{ s.made.seldom(g.folded.length) }}</summary>
        <SchoolQuestion
          v-for="q in g.folded"
          :key="g.opening + q.id"
          :question="q"
          :opening="g.opening"
          @answer="(c) => answer(q, g.opening, c)"
        />
      </details>
      <ProductsHere v-if="g.front.length" :opening="g.opening" />
      <template v-if="g.title === s.made.wall">
        <h4>{{ s.made.buildUp }}</h4>
        <BuildUpDrawing v-for="(b, i) in buildUps" :key="i" :build-up="b" :named="names.length > 1" />
      </template>
    </template>
  </section>
</template>

<style scoped>
.schools {
  padding: 12px 16px 24px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.row :deep(.p-select) {
  flex: 1 0 100%;
}
.help {
  font-size: 0.82rem;
}
.seldom summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
.seldom summary::before {
  content: "▸";
  margin-right: 8px;
}
.seldom[open] summary::before {
  content: "▾";
}
h4 {
  margin: 12px 0 2px;
  font-size: 0.95rem;
}
h3 {
  margin: 16px 0 4px;
  font-size: 1rem;
  border-bottom: 1.5px solid var(--ink);
}
</style>
