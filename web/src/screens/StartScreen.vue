<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import { computed, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, type Advice, type Choices, type Strategy, type StrategyAnswer } from "../api/client";
import { longest } from "../lib/limits";
import { failure, newest } from "../lib/requests";
import WayPanel from "../firm/WayPanel.vue";
import ScreenBar from "../shell/ScreenBar.vue";
import ChoicePicture from "../wall/ChoicePicture.vue";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
const route = useRoute();
const router = useRouter();
const answer = shallowRef<StrategyAnswer | null>(null);
const problem = ref<string | null>(null);
/** The question on show; as many as there are questions shows the advice. */
const at = ref(0);

async function load() {
  const now = job.state;
  if (!now) return;
  try {
    const params = { path: { id: now.id } };
    const data = await newest("strategy", (signal) => api.GET("/api/jobs/{id}/strategy", { params, signal }));
    if (data && now.id === job.state?.id) answer.value = data;
  } catch (e) {
    problem.value = failure(e);
  }
}
watch(
  () => job.state?.id,
  async (id) => {
    if (id === undefined) return;
    await load();
    const answered = Object.keys(strategy.value.answers ?? {}).length;
    if (answered > 0) at.value = questions.value.length;
  },
  { immediate: true },
);
const questions = computed(() => answer.value?.questions ?? []);
const strategy = computed<Strategy>(() => answer.value?.strategy ?? { answers: {}, decisions: {}, taken: {} });
const question = computed(() => questions.value[at.value]);

/** What the answers to questions of the walls and openings look like, by question and answer; null where a question is not answered yet. */
const pictures = shallowRef(new Map<string, Map<string, Choices["choices"][number]> | null>());
type Option = Partial<Pick<Advice["ranked"][number], "writes">>;
const pictureOf = (o?: Option) =>
  (o?.writes ?? [])
    .flatMap((w) => pictures.value.get(w.question)?.get(w.answer) ?? [])
    .find((p) => p.section ?? p.apart);
/** An option is drawn, or may be: its picture is on its way. */
const isDrawn = (o?: Option) =>
  pictureOf(o) !== undefined || (o?.writes ?? []).some((w) => pictures.value.get(w.question) === null);
/** Questions of the walls and openings that options answer: each is drawn once. */
const drawn = computed(() => {
  const options: Option[] = question.value?.options ?? (answer.value?.advice ?? []).flatMap((a) => a.ranked);
  return [...new Set(options.flatMap((o) => (o.writes ?? []).map((w) => w.question)))];
});
watch(
  () => [job.state?.id, job.state?.revision, drawn.value.join(), job.view?.schools?.length] as const,
  async ([id]) => {
    if (!id) return;
    const asked = drawn.value.flatMap((q) => job.view?.schools?.find((x) => x.id === q) ?? []);
    // Those of before stand until the new ones are there, and room is kept for those that come: nothing moves meanwhile.
    const before = pictures.value;
    pictures.value = new Map([...asked.map((q) => [q.id, before.get(q.id) ?? null] as const), ...before]);
    await Promise.all(
      asked.map(async (q) => {
        const query = { question: q.id, ...(q.openings[0] ? { opening: q.openings[0] } : {}) };
        const params = { path: { id }, query };
        // Without pictures the options stand there in words.
        const data = await newest(`choices ${q.id}`, (signal) =>
          api.GET("/api/jobs/{id}/choices", { params, signal }),
        ).catch(() => null);
        // Asked anew meanwhile.
        if (data === undefined || id !== job.state?.id) return;
        const made = new Map((data?.choices ?? []).map((c) => [c.choice, c]));
        pictures.value = new Map(pictures.value).set(q.id, made);
      }),
    );
  },
  { immediate: true },
);

async function keep(next: Strategy) {
  if (await job.change({ edit: "set_strategy", strategy: next }, s.start.open)) await load();
}
async function choose(id: string) {
  const q = question.value;
  if (!q) return;
  await keep({ ...strategy.value, answers: { ...strategy.value.answers, [q.id]: id } });
  at.value += 1;
}
function decide(a: Advice, choice: string) {
  const others = Object.entries(strategy.value.decisions ?? {}).filter(([id]) => id !== a.id);
  const decisions = Object.fromEntries(others);
  if (choice !== a.ranked[0]?.id) decisions[a.id] = { choice, reason: a.reason };
  void keep({ ...strategy.value, decisions });
}
function because(a: Advice, reason: string) {
  if (reason === a.reason) return;
  void keep({
    ...strategy.value,
    decisions: { ...strategy.value.decisions, [a.id]: { choice: a.chosen, reason: reason.slice(0, 300) } },
  });
}
/** On the walls as it is; or taken once and changed since. */
const standing = (a: Advice) =>
  a.stands ? s.start.stands : strategy.value.taken?.[a.id]?.choice === a.chosen ? s.start.taken : "";
const name = (a: Advice) => a.ranked.find((r) => r.id === a.chosen)?.name ?? a.chosen;
/** Where what is in force stands among the options, and the best of the others. */
const place = (a: Advice) =>
  Math.max(
    0,
    a.ranked.findIndex((r) => r.id === a.chosen),
  );
const other = (a: Advice) => (place(a) === 0 ? 1 : 0);
const reasons = (a: Advice, rank: number, sign: 1 | -1) =>
  (a.ranked[rank]?.reasons ?? []).filter((r) => r.weight * sign > 0);
async function follow() {
  if (await job.change({ edit: "follow_advice" }, s.start.follow))
    await router.push({ name: "wall", params: { id: String(route.params.id) } });
}
</script>

<template>
  <div>
    <ScreenBar :title="s.start.title" />
    <Message v-if="problem" severity="error" data-test="error">{{ problem }}</Message>
    <main v-if="answer" class="start">
      <section v-if="question" class="ask" data-test="interview">
        <p v-if="at === 0" class="quiet">{{ s.start.lead }}</p>
        <p class="quiet">{{ s.start.of(at + 1, questions.length) }}</p>
        <progress :value="at" :max="questions.length" :aria-label="s.start.of(at + 1, questions.length)" />
        <h2>{{ question.ask }}</h2>
        <div :class="['options', { drawn: question.options.some((o) => isDrawn(o)) }]">
          <button
            v-for="o in question.options"
            :key="o.id"
            :class="{ picked: strategy.answers?.[question.id] === o.id }"
            :aria-pressed="strategy.answers?.[question.id] === o.id"
            :data-answer="o.id"
            :disabled="!job.mayChange"
            @click="choose(o.id)"
          >
            <ChoicePicture v-if="isDrawn(o)" :picture="pictureOf(o)" />
            {{ o.name }}
          </button>
        </div>
        <p class="row">
          <Button v-if="at > 0" text :label="s.start.back" @click="at -= 1" />
          <Button text :label="s.start.skip" data-test="skip" @click="at += 1" />
        </p>
      </section>
      <section v-else class="advice" data-test="advice">
        <header>
          <h2>{{ s.start.advice }}</h2>
          <Button text :label="s.start.again" @click="at = 0" />
          <Button v-if="job.mayChange" :label="s.start.follow" data-test="follow" @click="follow" />
        </header>
        <div v-if="answer.also.length || answer.gives_way.length" class="before" data-test="before">
          <template v-if="answer.also.length">
            <h3>{{ s.start.also }}</h3>
            <ul>
              <li v-for="t in answer.also" :key="t">{{ t }}</li>
            </ul>
          </template>
          <template v-if="answer.gives_way.length">
            <h3>{{ s.start.givesWay }}</h3>
            <ul data-test="gives-way">
              <li v-for="t in answer.gives_way" :key="t">{{ t }}</li>
            </ul>
          </template>
        </div>
        <WayPanel />
        <article v-for="a in answer.advice" :key="a.id" :data-advice="a.id">
          <h3>
            <span class="code">{{ a.id }}</span> {{ a.about }}
            <span v-if="standing(a)" class="stands" :class="{ now: a.stands }">{{ standing(a) }}</span>
          </h3>
          <p v-if="a.instead" class="instead" data-test="instead">
            <b>{{ s.start.together }}:</b> {{ a.instead }}
          </p>
          <div class="two">
            <div>
              <p class="best">{{ name(a) }}</p>
              <ChoicePicture v-if="isDrawn(a.ranked[place(a)])" :picture="pictureOf(a.ranked[place(a)])" />
              <ul>
                <li v-for="(r, i) in reasons(a, place(a), 1)" :key="i">
                  {{ r.text }} <i>({{ s.sizes.source[r.source] }})</i>
                </li>
                <li v-for="(r, i) in reasons(a, place(a), -1)" :key="`n${i}`" class="against">
                  {{ s.start.against }}: {{ r.text }}
                </li>
              </ul>
              <p v-if="!a.ranked[place(a)]?.reasons.length" class="quiet">{{ s.start.nothing }}</p>
              <label v-if="a.decided" class="why">
                {{ s.start.why }}
                <InputText
                  :default-value="a.reason"
                  size="small"
                  :maxlength="longest('reason')"
                  :disabled="!job.mayChange"
                  @change="(e: Event) => because(a, (e.target as HTMLInputElement).value)"
                />
              </label>
            </div>
            <div v-if="a.ranked[other(a)]" class="second">
              <p>
                <b>{{ other(a) === 0 ? s.start.best : s.start.runnerUp }}:</b> {{ a.ranked[other(a)]?.name }}
              </p>
              <ChoicePicture v-if="isDrawn(a.ranked[other(a)])" :picture="pictureOf(a.ranked[other(a)])" />
              <ul>
                <li v-for="(r, i) in reasons(a, other(a), 1)" :key="i">{{ r.text }}</li>
                <li v-for="(r, i) in reasons(a, other(a), -1)" :key="`n${i}`" class="against">
                  {{ s.start.against }}: {{ r.text }}
                </li>
              </ul>
            </div>
          </div>
          <dl v-if="a.writes.length || a.unwritten.length" class="written">
            <template v-if="a.writes.length">
              <dt>{{ s.start.writes }}</dt>
              <dd v-for="t in a.writes" :key="t">{{ t }}</dd>
            </template>
            <template v-if="a.unwritten.length">
              <dt>{{ s.start.unwritten }}</dt>
              <dd v-for="t in a.unwritten" :key="t" class="not">{{ t }}</dd>
            </template>
          </dl>
          <div class="options small">
            <button
              v-for="r in a.ranked"
              :key="r.id"
              :class="{ picked: r.id === a.chosen }"
              :aria-pressed="r.id === a.chosen"
              :data-option="r.id"
              :disabled="!job.mayChange"
              @click="decide(a, r.id)"
            >
              {{ r.name }} <small>{{ r.score > 0 ? `+${r.score}` : r.score }}</small>
            </button>
          </div>
        </article>
        <p class="quiet">{{ s.sizes.authority }}</p>
      </section>
    </main>
    <p v-else class="page" aria-busy="true">{{ s.wall.loading }}</p>
  </div>
</template>

<style scoped>
.start {
  max-width: 900px;
  margin: 0 auto;
  padding: 20px 16px 48px;
}
.ask:has(.drawn) {
  max-width: 800px;
}
.ask {
  max-width: 560px;
  margin: 4vh auto 0;
}
progress {
  width: 100%;
  height: 6px;
  accent-color: var(--shell);
}
.ask h2 {
  margin: 18px 0 12px;
  font-size: 1.5rem;
}
.options {
  display: grid;
  gap: 8px;
}
.options.drawn {
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
}
.options button {
  min-height: 52px;
  padding: 8px 16px;
  font: inherit;
  font-size: 1.05rem;
  color: inherit;
  text-align: left;
  background: var(--sheet);
  border: 1.5px solid var(--ink-soft);
  border-radius: 6px;
  cursor: pointer;
}
.options button:hover,
.options button.picked {
  border-color: var(--ink);
  box-shadow: inset 6px 0 0 var(--shell);
}
.kame-dark .options button:hover,
.kame-dark .options button.picked {
  box-shadow: inset 6px 0 0 var(--good);
}
.options.small {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 8px;
}
.options.small button {
  min-height: 36px;
  padding: 4px 12px;
  font-size: 0.88rem;
}
.row {
  margin-top: 14px;
}
.advice header {
  display: flex;
  gap: 10px;
  align-items: center;
}
.advice h2 {
  flex: 1;
}
article {
  margin-top: 16px;
  padding-top: 10px;
  border-top: 1.5px solid var(--ink);
}
h3 {
  font-size: 1rem;
  font-weight: 500;
}
.code {
  font-size: 0.85rem;
  color: var(--ink-soft);
}
.best {
  font-size: 1.15rem;
  font-weight: 650;
}
.two {
  display: grid;
  grid-template-columns: 3fr 2fr;
  gap: 20px;
}
ul {
  margin: 2px 0;
  padding-left: 18px;
}
.second {
  font-size: 0.88rem;
  color: var(--ink-soft);
}
.before {
  margin-top: 12px;
  padding: 8px 14px;
  background: var(--sheet);
  border-left: 4px solid var(--shell);
}
.instead {
  margin: 4px 0 8px;
  padding: 6px 10px;
  border-left: 4px solid var(--glue);
  background: var(--sheet);
}
.stands {
  margin-left: 8px;
  padding: 1px 8px;
  font-size: 0.78rem;
  border: 1px solid var(--ink-soft);
  border-radius: 10px;
}
.stands.now {
  color: var(--good);
  border-color: var(--good);
}
.written {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0 12px;
  margin: 6px 0;
  font-size: 0.9rem;
}
.written dt {
  grid-column: 1;
  color: var(--ink-soft);
}
.written dd {
  grid-column: 2;
  margin: 0;
}
.against {
  list-style: "– ";
}
.why {
  display: grid;
  gap: 4px;
}
@media (max-width: 760px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
