<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import Select from "primevue/select";
import { computed, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, type Comparison, type JobState, type Side } from "../api/client";
import { failure, newest } from "../lib/requests";
import ExplodedDrawing from "../wall/ExplodedDrawing.vue";
import ScreenBar from "../shell/ScreenBar.vue";
import BuiltSection from "../wall/BuiltSection.vue";
import SectionPicture from "../wall/SectionPicture.vue";
import { ownAnswers, questionsOf, type Answers } from "../lib/answers";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
const route = useRoute();
const router = useRouter();
const problem = ref<string | null>(null);
const comparison = shallowRef<Comparison | null>(null);
const other = ref<Answers>({});
const keep = ref<string | null>(null);

const openings = computed(() =>
  (job.state?.job.openings ?? []).map((o) => ({ label: `${o.id} · ${o.name}`, id: o.id })),
);
const opening = computed(() => openings.value[job.opening]?.id ?? openings.value[0]?.id ?? "");
/** Those that decide how this opening is made; the base of the wall and its gap are the same on both sides. */
const questions = computed(() =>
  questionsOf(job.view?.schools ?? [], opening.value).filter((q) => !comparison.value || chosen(q.id)),
);

watch(
  () => [job.state?.id, job.state?.revision, opening.value] as const,
  () => {
    if (!job.state) return;
    other.value = own(job.state);
    void ask();
  },
  { immediate: true },
);
const own = (state: JobState) =>
  ownAnswers(state, opening.value, job.view?.elevation.openings.find((o) => o.id === opening.value)?.wall ?? 0);
async function ask() {
  const now = job.state;
  if (!now || !opening.value) return;
  try {
    const params = { path: { id: now.id } };
    const body = { opening: opening.value, sides: [own(now), other.value], keep: keep.value };
    const data = await newest("compare", (signal) => api.POST("/api/jobs/{id}/compare", { params, body, signal }));
    if (data && now.id === job.state?.id) [comparison.value, problem.value] = [data, null];
  } catch (e) {
    problem.value = failure(e);
  }
}
function answer(question: string, choice: string) {
  keep.value = question;
  const shown = comparison.value?.sides[1]?.answers ?? [];
  // What the other side shows is what it is built of from now on, so that one answer is changed at a time.
  other.value = { ...Object.fromEntries(shown.map((a) => [a.question, a.choice])), [question]: choice };
  void ask();
}
const sides = computed(() => comparison.value?.sides ?? []);
const chosen = (question: string) => sides.value[1]?.answers.find((a) => a.question === question)?.choice ?? "";
const differing = (side: Side) => side.answers.filter((a) => a.differs);
const window = (side: Side) => {
  const t = side.temperatures;
  if (!t.least && !t.most) return s.compare.any;
  const end = (e: typeof t.least, sign: string) => (e ? `${sign} ${e.degrees} °F (${e.product})` : "");
  return [end(t.least, "≥"), end(t.most, "≤")].filter(Boolean).join(", ");
};
const priced = (sum: string, unpriced: number) =>
  [sum || s.compare.noPrices, sum && unpriced ? s.truck.unpriced(unpriced) : ""].filter(Boolean).join(", ");
const rows = computed(() => {
  const head = (h: Side["rain"]) => (h ? s.compare.head(h.inches) : s.compare.never);
  const line = (what: string, of: (side: Side) => string) => ({ what, cells: sides.value.map(of) });
  return [
    line(s.compare.rain, (x) => head(x.rain)),
    line(s.compare.lost, (x) => head(x.lost)),
    line(s.compare.said, (x) => s.verdict.says[x.state] ?? x.says),
    line(s.compare.held, (x) => (x.by_laps ? s.compare.laps : s.compare.glue(x.glue_places))),
    line(s.compare.ponds, (x) => (x.ponds ? String(x.ponds) : s.compare.none)),
    line(s.compare.pieces, (x) => `${x.pieces}, ${x.steps}`),
    line(s.compare.minutes, (x) => x.minutes.toFixed(0)),
    line(s.compare.money, (x) => priced(x.material_cost, x.unpriced.length)),
    line(s.compare.labour, (x) => x.labour_cost || s.compare.noRate),
    line(s.compare.whole, (x) =>
      x.whole
        ? [
            priced(x.whole.order, x.whole.unpriced),
            s.compare.hours(x.whole.minutes),
            x.whole.labour,
            s.truck.inDays(x.whole.days),
            x.whole.waits ? s.compare.waits(x.whole.waits) : "",
          ]
            .filter(Boolean)
            .join(" · ")
        : s.compare.notWhole,
    ),
    line(s.compare.window, window),
    line(s.compare.material, (x) =>
      x.material.map((m) => `${m.product}: ${m.pieces}${m.area ? ` (${m.area} ft²)` : ""}`).join("; "),
    ),
    line(s.compare.wrong, (x) => x.wrong.join(" ") || s.compare.none),
  ];
});
async function take() {
  const answers = Object.fromEntries((sides.value[1]?.answers ?? []).map((a) => [a.question, a.choice]));
  if (await job.change({ edit: "take_schools", opening: opening.value, answers }, s.compare.take))
    await router.push({ name: "wall", params: { id: String(route.params.id) } });
}
function pick(i: number) {
  job.opening = i;
}
</script>

<template>
  <div>
    <ScreenBar :title="s.compare.title" />
    <Message v-if="problem" severity="error" data-test="error">{{ problem }}</Message>
    <main v-if="job.view" class="compare">
      <p v-if="openings.length > 1" class="row">
        <Select
          :model-value="job.opening"
          :options="openings.map((o, i) => ({ ...o, value: i }))"
          option-label="label"
          option-value="value"
          :aria-label="s.compare.pickOpening"
          @update:model-value="pick"
        />
      </p>
      <section class="choices" :aria-label="s.compare.right">
        <h2>{{ s.compare.right }}</h2>
        <div class="grid">
          <div v-for="q in questions" :key="q.id" :data-question="q.id">
            <label :for="`c-${q.id}`">{{ q.ask }}</label>
            <Select
              :model-value="chosen(q.id)"
              :input-id="`c-${q.id}`"
              :options="q.choices"
              option-label="name"
              option-value="id"
              size="small"
              @update:model-value="(c: string) => answer(q.id, c)"
            />
          </div>
        </div>
      </section>
      <table v-if="sides.length === 2" data-test="comparison">
        <thead>
          <tr>
            <th scope="col">{{ s.compare.what }}</th>
            <th scope="col">{{ s.compare.left }}</th>
            <th scope="col">
              {{ s.compare.right }}
              <Button
                size="small"
                :label="s.compare.take"
                :disabled="!job.mayChange || differing(sides[1]!).length === 0"
                data-test="take"
                @click="take"
              />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.what" :class="{ same: r.cells[0] === r.cells[1] }">
            <th scope="row">{{ r.what }}</th>
            <td v-for="(c, i) in r.cells" :key="i">{{ c }}</td>
          </tr>
          <tr v-for="(a, k) in differing(sides[0]!)" :key="a.question">
            <th scope="row">{{ a.ask }}</th>
            <td v-for="side in [sides[0]!, sides[1]!]" :key="side.answers[0]?.choice">
              <b>{{ differing(side)[k]?.name }}</b>
              <p>{{ s.compare.protects }}: {{ differing(side)[k]?.good }}</p>
              <p>{{ s.compare.asks }}: {{ differing(side)[k]?.asks }}</p>
            </td>
          </tr>
          <tr class="pictures">
            <th scope="row">{{ s.section.title }}</th>
            <td v-for="(side, i) in sides" :key="i">
              <figure v-for="sec in side.sections" :key="sec.kind">
                <BuiltSection v-if="sec.built" bare :section="sec" />
                <SectionPicture v-else :section="sec" />
                <figcaption>{{ s.section[sec.kind] }}</figcaption>
              </figure>
            </td>
          </tr>
          <tr class="pictures">
            <th scope="row">{{ s.apart.title }}</th>
            <td v-for="(side, i) in sides" :key="i">
              <figure class="tall"><ExplodedDrawing :exploded="side.exploded ?? null" /></figure>
            </td>
          </tr>
        </tbody>
      </table>
    </main>
    <p v-else class="page" aria-busy="true">{{ s.wall.loading }}</p>
  </div>
</template>

<style scoped>
.compare {
  max-width: 1240px;
  margin: 0 auto;
  padding: 12px 16px 40px;
}
.choices {
  margin: 8px 0 14px;
}
h2 {
  font-size: 1.05rem;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 8px 14px;
}
.grid label {
  display: block;
  font-size: 0.85rem;
  font-weight: 600;
}
.grid :deep(.p-select) {
  width: 100%;
}
table {
  width: 100%;
  table-layout: fixed;
  border-collapse: collapse;
  background: var(--sheet);
}
th,
td {
  padding: 8px 10px;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
thead th {
  font-size: 1.05rem;
}
th:first-child {
  width: 170px;
  font-weight: 600;
}
tr.same td {
  color: var(--ink-soft);
}
td p {
  font-size: 0.88rem;
}
figure {
  display: inline-flex;
  flex-direction: column;
  width: 48%;
  min-height: 240px;
  vertical-align: top;
  margin: 0 2% 8px 0;
}
figure.tall {
  width: 100%;
  height: 480px;
}
figcaption {
  text-align: center;
  font-size: 0.85rem;
}
@media (max-width: 760px) {
  th:first-child {
    width: 88px;
  }
  figure {
    width: 100%;
  }
  figure.tall {
    height: 300px;
  }
}
</style>
