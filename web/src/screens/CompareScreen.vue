<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import Select from "primevue/select";
import SelectButton from "primevue/selectbutton";
import { computed, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, type Comparison, type JobState, type Side } from "../api/client";
import { failure, newest } from "../lib/requests";
import ExplodedDrawing from "../wall/ExplodedDrawing.vue";
import HeadBars from "../wall/HeadBars.vue";
import ScreenBar from "../shell/ScreenBar.vue";
import BuiltSection from "../wall/BuiltSection.vue";
import SectionPicture from "../wall/SectionPicture.vue";
import VerdictMark from "../wall/VerdictMark.vue";
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
/** What is looked at on both sides: a section, or the stack drawn apart. */
type View = Side["sections"][number]["kind"] | "apart";
const looked = ref<View | null>(null);
const views = computed<{ id: View; name: string }[]>(() => [
  ...(sides.value[0]?.sections ?? []).map((x) => ({ id: x.kind, name: s.section[x.kind] })),
  ...(sides.value.some((x) => x.exploded) ? [{ id: "apart" as const, name: s.apart.show }] : []),
]);
const cut = (side: Side, kind: View) => side.sections.find((x) => x.kind === kind);
/** Until somebody chooses, where the two differ most to look at: the first section that is not the same. */
const view = computed<View>(() => {
  const [a, b] = sides.value;
  if (looked.value && views.value.some((v) => v.id === looked.value)) return looked.value;
  const differs = (v: { id: View }) =>
    a && b && v.id !== "apart" && JSON.stringify(cut(a, v.id)?.built) !== JSON.stringify(cut(b, v.id)?.built);
  return (views.value.find(differs) ?? views.value[0])?.id ?? "apart";
});
/** A row for each water, as bars against what is asked. */
const waters = computed(() => {
  const all = sides.value.flatMap((x) => x.heads);
  return [...new Set(all.map((h) => h.scenario))].map((scenario) => {
    const of = (side: Side, glue: "holds" | "lost") =>
      side.heads.find((h) => h.scenario === scenario && h.glue === glue);
    return {
      scenario,
      name: all.find((h) => h.scenario === scenario)?.name ?? "",
      cells: sides.value.map((side) => ({
        holds: of(side, "holds")?.head_in ?? null,
        lost: of(side, "lost")?.head_in ?? null,
        floors: [of(side, "holds")?.floor ?? 0, of(side, "lost")?.floor ?? 0],
      })),
    };
  });
});
/** What each side takes, as bars beside each other. */
const amounts = computed(() => {
  const line = (what: string, of: (side: Side) => number, said: (side: Side) => string) => {
    const most = Math.max(...sides.value.map(of), 1);
    return { what, cells: sides.value.map((x) => ({ share: (of(x) / most) * 100, said: said(x) })) };
  };
  return [
    line(
      s.compare.held,
      (x) => x.glue_places,
      (x) => (x.by_laps ? s.compare.laps : s.compare.glue(x.glue_places)),
    ),
    line(
      s.compare.ponds,
      (x) => x.ponds,
      (x) => (x.ponds ? String(x.ponds) : s.compare.none),
    ),
    line(
      s.compare.pieces,
      (x) => x.pieces,
      (x) => `${x.pieces}, ${x.steps}`,
    ),
    line(
      s.compare.minutes,
      (x) => x.minutes,
      (x) => x.minutes.toFixed(0),
    ),
    line(
      s.compare.money,
      (x) => x.material_cents,
      (x) => priced(x.material_cost, x.unpriced.length),
    ),
    line(
      s.compare.labour,
      (x) => x.labour_cents,
      (x) => x.labour_cost || s.compare.noRate,
    ),
  ];
});
const rows = computed(() => {
  const line = (what: string, of: (side: Side) => string) => ({ what, cells: sides.value.map(of) });
  return [
    line(s.compare.wrong, (x) => x.wrong.join(" ") || s.compare.none),
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
      <div class="row">
        <Select
          v-if="openings.length > 1"
          :model-value="job.opening"
          :options="openings.map((o, i) => ({ ...o, value: i }))"
          option-label="label"
          option-value="value"
          :aria-label="s.compare.pickOpening"
          @update:model-value="pick"
        />
        <SelectButton
          v-if="sides.length === 2"
          :model-value="view"
          :options="views"
          option-label="name"
          option-value="id"
          :allow-empty="false"
          size="small"
          :aria-label="s.compare.look"
          data-test="compare-look"
          @update:model-value="(v: View) => (looked = v)"
        />
      </div>
      <div v-if="sides.length === 2" data-test="comparison">
        <div class="sides">
          <section v-for="(side, i) in sides" :key="i" :aria-label="i ? s.compare.right : s.compare.left">
            <h2>
              <span>{{ i ? s.compare.right : s.compare.left }}</span>
              <Button
                v-if="i === 1"
                size="small"
                :label="s.compare.take"
                :disabled="!job.mayChange || differing(side).length === 0"
                data-test="take"
                @click="take"
              />
            </h2>
            <p class="said"><VerdictMark :state="side.state" /> {{ s.verdict.says[side.state] ?? side.says }}</p>
            <figure>
              <ExplodedDrawing v-if="view === 'apart'" :exploded="side.exploded ?? null" />
              <template v-for="sec in side.sections" v-else :key="sec.kind">
                <template v-if="sec.kind === view">
                  <BuiltSection v-if="sec.built" bare :section="sec" />
                  <SectionPicture v-else :section="sec" />
                </template>
              </template>
            </figure>
            <ul class="why">
              <li v-for="a in differing(side)" :key="a.question">
                <b>{{ a.name }}</b>
                <p>{{ s.compare.protects }}: {{ a.good }}</p>
                <p>{{ s.compare.asks }}: {{ a.asks }}</p>
              </li>
            </ul>
          </section>
        </div>
        <table>
          <thead>
            <tr>
              <th scope="col">{{ s.compare.water }}</th>
              <th scope="col">{{ s.compare.left }}</th>
              <th scope="col">{{ s.compare.right }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="w in waters" :key="w.scenario">
              <th scope="row">{{ w.name }}</th>
              <td v-for="(c, i) in w.cells" :key="i"><HeadBars v-bind="c" :followed="comparison?.followed ?? 12" /></td>
            </tr>
            <tr v-for="r in amounts" :key="r.what" :class="{ same: r.cells[0]?.said === r.cells[1]?.said }">
              <th scope="row">{{ r.what }}</th>
              <td v-for="(c, i) in r.cells" :key="i">
                <span class="amount"
                  ><i v-if="c.share" :style="{ width: `${c.share}%` }"></i><span>{{ c.said }}</span></span
                >
              </td>
            </tr>
          </tbody>
        </table>
        <p class="quiet">{{ s.compare.bars }}</p>
        <details class="more">
          <summary>{{ s.compare.more }}</summary>
          <table>
            <tbody>
              <tr v-for="r in rows" :key="r.what" :class="{ same: r.cells[0] === r.cells[1] }">
                <th scope="row">{{ r.what }}</th>
                <td v-for="(c, i) in r.cells" :key="i">{{ c }}</td>
              </tr>
            </tbody>
          </table>
        </details>
      </div>
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
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
.sides {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 16px;
  margin: 10px 0;
}
.sides section {
  min-width: 0;
  padding: 10px 14px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
h2 {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  min-height: 34px;
  font-size: 1.05rem;
}
.said {
  font-weight: 600;
}
figure {
  display: flex;
  flex-direction: column;
  height: 380px;
  margin: 8px 0;
}
/* Names stand beside the drawing, so that it is as large as it can be. */
figure :deep(.built) {
  flex-direction: row;
  gap: 10px;
}
figure :deep(.built svg) {
  flex: 1;
  height: 100%;
  min-width: 0;
}
figure :deep(.built .names) {
  flex: none;
  width: 170px;
  border: 0;
}
figure :deep(.built .names ul) {
  columns: 1;
}
.why {
  margin: 0;
  padding: 0;
  list-style: none;
}
.why p {
  font-size: 0.88rem;
}
.choices {
  margin: 18px 0 14px;
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
}
th,
td {
  padding: 5px 10px;
  text-align: left;
  vertical-align: middle;
  border-bottom: 1px solid var(--line);
}
th:first-child {
  width: 200px;
  font-weight: 600;
}
tr.same td {
  color: var(--ink-soft);
}
.amount {
  position: relative;
  display: block;
  min-height: 20px;
}
.amount i {
  position: absolute;
  inset: 3px auto 3px 0;
  background: var(--f-pan);
  border-right: 2px solid var(--ink-soft);
}
.amount span {
  position: relative;
  padding-left: 6px;
}
.more {
  margin-top: 8px;
}
.more td {
  vertical-align: top;
}
summary {
  min-height: 36px;
  cursor: pointer;
}
@media (max-width: 760px) {
  .sides {
    grid-template-columns: 1fr;
  }
  th:first-child {
    width: 88px;
  }
  figure {
    height: auto;
  }
  figure :deep(.built) {
    flex-direction: column;
  }
  figure :deep(.built .names) {
    width: auto;
  }
}
</style>
