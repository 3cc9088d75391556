<script setup lang="ts">
import Button from "primevue/button";
import { useEventListener, useIntervalFn } from "@vueuse/core";
import { computed, nextTick, onMounted, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import {
  api,
  sentence,
  type AnswerSheet,
  type Drill,
  type GradedView,
  type Learner,
  type PlayedBy,
  type PracticeAnswer,
  type SceneOf,
  type SceneSheet,
  type SceneView,
} from "../api/client";
import {
  addressOf,
  instead,
  keepScenes,
  keepWaiting,
  sameScene,
  scenesHere,
  toTake,
  waitingAnswers,
  type SceneHere,
} from "../lib/along";
import { DRILLS, nextSeed, sceneAddress } from "../lib/practice";
import { soundOfRain } from "../lib/rain";
import { gradeBySheet } from "../lib/sheet";
import { newId } from "../lib/site";
import CallDrill from "../practice/CallDrill.vue";
import FindDrill from "../practice/FindDrill.vue";
import MeasureDrill from "../practice/MeasureDrill.vue";
import OrderDrill from "../practice/OrderDrill.vue";
import PracticeWall from "../practice/PracticeWall.vue";
import RepairDrill from "../practice/RepairDrill.vue";
import KameMark from "../shell/KameMark.vue";
import { keepHere } from "../site/offline";
import { useRecord } from "../stores/record";
import { s } from "../strings";
import HatchPatterns from "../wall/HatchPatterns.vue";

/** Walls that never were, put in order, looked over, measured, called and mended; graded by the water. */
const route = useRoute();
const router = useRouter();
const record = useRecord();
const name = ref(record.who);
const sound = ref(localStorage.getItem("kame-rain") === "1");
watch(sound, (on) => localStorage.setItem("kame-rain", on ? "1" : "0"));

const people = shallowRef<Learner[]>([]);
const faults = shallowRef<{ id: string; name: string }[]>([]);
const wrong = ref("");
async function load() {
  try {
    const { data } = await api.GET("/api/practice/progress");
    people.value = data?.people ?? [];
    faults.value = data?.faults ?? [];
  } catch {
    wrong.value = s.repair.silent;
  }
}
onMounted(async () => {
  await load();
  await sendWaiting();
  if (!wrong.value) takeScenes();
});
/** On the wall of another job, or of none, other scenes are taken along. */
watch(
  () => route.query.job,
  () => !drill.value && takeScenes(),
);
/** Answers on this device that nobody has taken yet. */
const waits = ref(waitingAnswers().length);
/** Drills of which no scene is on this device; null while none was taken along. */
const lacking = ref<Drill[] | null>(null);
useEventListener("online", () => void sendWaiting());
/** Tried again after so long, ms. */
const AGAIN = 15_000;
useIntervalFn(() => waits.value > 0 && void sendWaiting(), AGAIN);
/** Sends what was answered without a signal, one after the other; what is refused is not sent again. */
let sending = false;
async function sendWaiting() {
  if (sending) return;
  sending = true;
  try {
    for (let next = waitingAnswers()[0]; next; next = waitingAnswers()[0]) {
      const { response } = await api.POST("/api/practice/answer", { body: next });
      // Busy, too many at once or not signed in: later.
      if (response.status >= 500 || response.status === 429 || response.status === 401) break;
      keepWaiting(waitingAnswers().slice(1));
    }
    if (waits.value > 0) void load();
  } catch {
    // Nobody is there yet.
  }
  waits.value = waitingAnswers().length;
  sending = false;
}
/** Scenes with what every answer to them gives, for where there is no signal. */
function takeScenes() {
  const of = job.value;
  const drillsHere = () =>
    DRILLS.filter((d) => scenesHere().some((x) => x.drill === d && x.job === of && x.level === next(d)));
  const lacks = () => DRILLS.filter((d) => !drillsHere().includes(d));
  lacking.value = null;
  const wanted = lacks();
  if (wanted.length === 0) return void (lacking.value = []);
  const all = toTake(next, Math.random, of, wanted);
  void keepHere(`practice ${of}`, ["/api/practice/progress", ...all.map(addressOf)], (missing) => {
    const had = all.filter((x) => !missing.some((url) => url.endsWith(addressOf(x))));
    keepScenes(had, (x) => x.job === of && !x.set && had.some((h) => h.drill === x.drill));
    if (job.value === of) lacking.value = lacks();
  });
}
const mine = computed(() => people.value.find((p) => p.who === record.who)?.progress ?? null);
const level = (drill: Drill) => mine.value?.levels.find((l) => l.drill === drill) ?? null;
const next = (drill: Drill) => level(drill)?.next ?? 1;

const drill = computed(() => {
  const asked = route.params.drill;
  return DRILLS.find((d) => d === asked) ?? null;
});
const at = computed(() => Math.min(5, Math.max(1, Number(route.params.level) || 1)));
const seed = computed(() => Number(route.params.seed) || 0);
const job = computed(() => (route.query.job ? Number(route.query.job) : null));
const focus = computed(() => (typeof route.query.focus === "string" ? route.query.focus : null));
const of = computed<SceneOf>(() => ({
  which: {
    drill: drill.value ?? "order",
    level: at.value,
    seed: seed.value,
    ...(focus.value ? { focus: focus.value } : {}),
  },
  job: job.value,
}));
const scene = shallowRef<SceneView | null>(null);
const graded = shallowRef<GradedView | null>(null);
/** The scene as it is on this device with what every answer to it gives, once that was read. */
const taken = shallowRef<SceneSheet | null>(null);
/** An answer was given that nobody could grade yet. */
const unheard = ref(false);
const busy = ref(false);
const verdict = ref<HTMLElement | null>(null);
/** Counts scenes begun, so that each starts with nothing laid. */
const turn = ref(0);
let asked = 0;
async function begin() {
  const d = drill.value;
  [scene.value, graded.value, wrong.value, taken.value, unheard.value] = [null, null, "", null, false];
  if (!d) return void load();
  const mineNow = ++asked;
  busy.value = true;
  const { focus: due, ...rest } = of.value.which;
  const query = { ...rest, ...(due ? { focus: due } : {}), ...(job.value ? { job: job.value } : {}) };
  try {
    const { data, error } = await api.GET("/api/practice/scene", { params: { query } });
    if (mineNow !== asked) return;
    if (data) scene.value = data;
    else wrong.value = sentence(error, s.repair.silent);
  } catch {
    const kept = await readKept();
    if (mineNow !== asked) return;
    const other = kept ? null : instead(scenesHere(), here.value);
    if (other) return void router.replace(sceneAddress(other.drill, other.level, other.seed, other.job));
    if (kept) [scene.value, taken.value] = [kept.scene, kept];
    else wrong.value = s.practice.noneHere;
  }
  if (scene.value && job.value && !focus.value) keepThis();
  turn.value++;
  busy.value = false;
}
/** This scene, as it is told from others on this device. */
const here = computed<SceneHere>(() => ({
  drill: drill.value ?? "order",
  level: at.value,
  seed: seed.value,
  job: job.value,
}));
/** This scene with what every answer to it gives, where it is on this device. */
async function readKept(): Promise<SceneSheet | null> {
  if (focus.value || !scenesHere().some((x) => sameScene(x, here.value))) return null;
  try {
    const answer = await fetch(addressOf(here.value));
    return answer.ok ? ((await answer.json()) as SceneSheet) : null;
  } catch {
    return null;
  }
}
/** What every answer to the scene on the screen gives: asked for where nobody else can be asked. */
async function sheet(): Promise<AnswerSheet | null> {
  taken.value ??= await readKept();
  // What was kept may be of a wall that has changed since.
  const same = taken.value && JSON.stringify(taken.value.scene) === JSON.stringify(scene.value);
  return same ? (taken.value?.sheet ?? null) : null;
}
/** A scene on a job's own wall was set for somebody: it is there for them without a signal too. */
function keepThis() {
  const mineHere = here.value;
  if (scenesHere().some((x) => sameScene(x, mineHere))) return;
  void keepHere(`scene ${addressOf(mineHere)}`, [addressOf(mineHere)], (missing) => {
    if (missing.length === 0) keepScenes([{ ...mineHere, set: true }]);
  });
}
watch(() => route.fullPath, begin, { immediate: true });
async function answer(a: PracticeAnswer) {
  busy.value = true;
  wrong.value = "";
  const id = newId(Date.now(), crypto.getRandomValues(new Uint8Array(16)));
  const body = { of: of.value, answer: a, who: record.who || null, id };
  try {
    const { data, error } = await api.POST("/api/practice/answer", { body });
    if (data) {
      graded.value = data;
      if (sound.value) soundOfRain();
      void load();
      await nextTick();
      verdict.value?.focus();
    } else wrong.value = sentence(error, s.repair.silent);
  } catch {
    keepWaiting([...waitingAnswers(), body]);
    waits.value = waitingAnswers().length;
    const known = await sheet();
    graded.value = known && scene.value ? gradeBySheet(known, scene.value, a) : null;
    unheard.value = graded.value === null;
    await nextTick();
    verdict.value?.focus();
  }
  busy.value = false;
}
function go(d: Drill, l: number, again = false) {
  const to = again ? seed.value : nextSeed(drill.value === d ? seed.value : null, Math.random);
  const due = d === "find" ? (mine.value?.focus ?? null) : null;
  const address = sceneAddress(d, l, to, job.value, again ? focus.value : due);
  if (again) void begin();
  else void router.push(address);
}
/** A drill on a job's own wall is set for the crew by its address; who has answered it. */
const played = shallowRef<PlayedBy[]>([]);
const copied = ref(false);
async function loadPlayed() {
  played.value = [];
  copied.value = false;
  if (!drill.value || !job.value) return;
  const { focus: due, ...rest } = of.value.which;
  const query = { ...rest, ...(due ? { focus: due } : {}), job: job.value };
  try {
    played.value = (await api.GET("/api/practice/played", { params: { query } })).data ?? [];
  } catch {
    // Without a signal nobody else is known.
  }
}
watch([() => route.fullPath, graded], loadPlayed, { immediate: true });
const address = computed(() => new URL(route.fullPath, location.origin).href);
/** A plain address has no clipboard: it stands there to be read. */
async function copyAddress() {
  await navigator.clipboard?.writeText(address.value).then(
    () => (copied.value = true),
    () => undefined,
  );
}
function setWho() {
  if (name.value.trim()) record.setWho(name.value);
}
/** Faults that anybody has met, for the lead's chart. */
const met = computed(() =>
  faults.value.filter((f) => people.value.some((p) => p.progress.faults.some((k) => k.fault === f.id))),
);
const faultName = (id: string) => faults.value.find((f) => f.id === id)?.name ?? "";
const sits = (p: Learner, fault: string) => p.progress.faults.find((k) => k.fault === fault) ?? null;
</script>

<template>
  <svg class="hatches" aria-hidden="true" focusable="false"><HatchPatterns /></svg>
  <header class="bar">
    <RouterLink to="/" :aria-label="s.kame" class="mark"><KameMark /></RouterLink>
    <h1>
      <RouterLink :to="{ name: 'practice', query: route.query.job ? { job: route.query.job } : {} }">{{
        s.practice.title
      }}</RouterLink>
      <template v-if="drill"> · {{ s.practice.drills[drill].name }} · {{ s.practice.level(at) }}</template>
    </h1>
    <label class="sound"><input v-model="sound" type="checkbox" /> {{ s.practice.sound }}</label>
  </header>
  <main class="practice" data-test="practice">
    <p v-if="wrong" role="alert" class="wrong" data-test="practice-wrong">{{ wrong }}</p>
    <p v-if="waits" role="status" class="waits" data-test="practice-waits">{{ s.practice.waits(waits) }}</p>
    <template v-if="!drill">
      <p class="lead">{{ s.practice.lead }}</p>
      <form class="who" @submit.prevent="setWho">
        <label for="learner">{{ s.practice.who }}</label>
        <input id="learner" v-model="name" maxlength="60" autocomplete="name" data-test="learner" @change="setWho" />
        <span v-if="record.who">{{ s.practice.kept(record.who) }}</span>
        <span v-else>{{ s.practice.notKept }}</span>
        <span v-if="lacking" data-test="practice-along">{{
          s.practice.along(lacking.map((d) => s.practice.drills[d].name))
        }}</span>
      </form>
      <p v-if="job" class="own">{{ s.practice.ownWall }}</p>
      <ul class="drills">
        <li v-for="d in DRILLS" :key="d">
          <h2>{{ s.practice.drills[d].name }}</h2>
          <p>{{ s.practice.drills[d].does }}</p>
          <div class="levels" role="group" :aria-label="s.practice.drills[d].name">
            <button
              v-for="l in 5"
              :key="l"
              :class="{ on: l === next(d), passed: l <= (level(d)?.passed ?? 0) }"
              :data-drill="`${d}-${l}`"
              :aria-label="`${s.practice.drills[d].name}, ${s.practice.level(l)}${l <= (level(d)?.passed ?? 0) ? `, ${s.practice.passed}` : ''}`"
              @click="go(d, l)"
            >
              {{ l }}<span v-if="l <= (level(d)?.passed ?? 0)" aria-hidden="true"> ✓</span>
            </button>
          </div>
        </li>
      </ul>
      <section v-if="people.length" class="chart">
        <h2>{{ s.practice.chart }}</h2>
        <div class="scroll" tabindex="0" role="region" :aria-label="s.practice.chart">
          <table data-test="practice-chart">
            <thead>
              <tr>
                <th scope="col">{{ s.practice.whoCol }}</th>
                <th v-for="d in DRILLS" :key="d" scope="col">{{ s.practice.drills[d].name }}</th>
                <th v-for="f in met" :key="f.id" scope="col" :title="f.name">{{ f.id }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="p in people" :key="p.who">
                <th scope="row">{{ p.who }}</th>
                <td v-for="l in p.progress.levels" :key="l.drill">{{ s.practice.passedLevel(l.passed) }}</td>
                <td
                  v-for="f in met"
                  :key="f.id"
                  :title="f.name"
                  :class="`sits-${Math.min(3, sits(p, f.id)?.sits ?? -1)}`"
                >
                  {{ s.practice.sits(sits(p, f.id)) }}
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p class="quiet">{{ s.practice.chartHelp }}</p>
      </section>
    </template>
    <template v-else>
      <p v-if="busy && !scene" role="status">{{ s.practice.making }}</p>
      <template v-if="scene">
        <p class="lead">
          <b>{{ s.practice.drills[drill].does }}</b> {{ scene.aim }}
        </p>
        <details v-if="job" class="set" data-test="set-drill">
          <summary>{{ s.practice.set }}</summary>
          <Button
            size="small"
            severity="secondary"
            :label="copied ? s.practice.copied : s.practice.copy"
            data-test="copy-drill"
            @click="copyAddress"
          />
          <code>{{ address }}</code>
          <ul v-if="played.length">
            <li v-for="p in played" :key="p.who" data-test="played">
              <b>{{ p.who }}</b> {{ s.practice.played(p) }}
            </li>
          </ul>
          <p v-else>{{ s.practice.nobody }}</p>
        </details>
        <section v-if="unheard" ref="verdict" class="graded" tabindex="-1" data-test="unheard">
          <p>{{ s.practice.unheard }}</p>
          <div class="acts">
            <Button :label="s.practice.another" @click="go(drill, at)" />
            <RouterLink :to="{ name: 'practice' }">{{ s.practice.all }}</RouterLink>
          </div>
        </section>
        <section
          v-else-if="graded"
          ref="verdict"
          class="graded"
          :class="{ clean: graded.clean }"
          tabindex="-1"
          data-test="graded"
        >
          <h2>{{ s.practice.points(graded.points, graded.clean) }}</h2>
          <div class="told">
            <ul>
              <li v-for="(w, i) in graded.says" :key="i" :class="{ good: w.good }">
                <span aria-hidden="true">{{ w.good ? "✓" : "✕" }}</span>
                <span
                  >{{ w.says }} <small v-if="w.fault">{{ w.fault }} {{ faultName(w.fault) }}</small></span
                >
              </li>
            </ul>
            <PracticeWall v-if="graded.elevation" :elevation="graded.elevation" :drop="graded.drop" />
          </div>
          <div class="acts">
            <Button :label="s.practice.another" data-test="another" @click="go(drill, at)" />
            <Button severity="secondary" :label="s.practice.sameAgain" data-test="again" @click="go(drill, at, true)" />
            <Button
              v-if="at < 5"
              severity="secondary"
              :label="s.practice.harder"
              data-test="harder"
              @click="go(drill, at + 1)"
            />
            <RouterLink :to="{ name: 'practice' }">{{ s.practice.all }}</RouterLink>
          </div>
        </section>
        <template v-else>
          <OrderDrill
            v-if="drill === 'order'"
            :key="turn"
            :scene="scene"
            :of="of"
            :busy="busy"
            :sheet="sheet"
            @answer="answer"
          />
          <FindDrill
            v-if="drill === 'find'"
            :key="turn"
            :scene="scene"
            :of="of"
            :busy="busy"
            :sheet="sheet"
            @answer="answer"
          />
          <MeasureDrill v-if="drill === 'measure'" :key="turn" :scene="scene" :busy="busy" @answer="answer" />
          <CallDrill v-if="drill === 'call'" :key="turn" :scene="scene" :busy="busy" @answer="answer" />
          <RepairDrill v-if="drill === 'repair'" :key="turn" :scene="scene" :busy="busy" @answer="answer" />
        </template>
      </template>
    </template>
  </main>
</template>

<style scoped>
.hatches {
  position: absolute;
  width: 0;
  height: 0;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  min-height: 48px;
  padding: 4px 16px;
  color: var(--shell-ink);
  background: var(--shell);
}
.bar a {
  color: inherit;
  text-decoration: none;
}
.bar .mark {
  display: inline-flex;
  align-items: center;
  min-width: 44px;
  min-height: 44px;
}
h1 {
  flex: 1;
  margin: 0;
  font-size: 1.1rem;
}
.sound {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  min-height: 44px;
}
.practice {
  max-width: 1240px;
  margin: 0 auto;
  padding: 14px 18px 60px;
}
.lead {
  margin: 0 0 12px;
  font-size: 1.05rem;
}
.who {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  margin-bottom: 14px;
}
.who input {
  min-height: 44px;
  padding: 0 10px;
  font: inherit;
}
.drills {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  gap: 14px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.drills li {
  display: flex;
  flex-direction: column;
  padding: 14px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-top: 5px solid var(--shell);
}
.drills h2 {
  margin: 0 0 4px;
  font-size: 1.2rem;
}
.drills p {
  margin: 0 0 10px;
}
.levels {
  display: flex;
  gap: 6px;
  margin-top: auto;
}
.levels button {
  flex: 1;
  min-height: 48px;
  font: inherit;
  font-weight: 650;
  color: var(--ink);
  background: var(--paper);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
.levels .on {
  color: var(--shell-ink);
  background: var(--shell);
}
.levels .passed:not(.on) {
  background: var(--good-soft);
}
.chart {
  margin-top: 22px;
}
.scroll {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
}
th,
td {
  padding: 6px 10px;
  text-align: left;
  border: 1px solid var(--line);
}
.sits-0 {
  background: var(--leak-soft);
}
.sits-1 {
  background: var(--glue-soft);
}
.sits-2,
.sits-3 {
  background: var(--good-soft);
}
.quiet {
  color: var(--ink-soft);
}
.set {
  margin-bottom: 10px;
}
.set code {
  margin-left: 10px;
  overflow-wrap: anywhere;
}
.set summary {
  min-height: 44px;
  line-height: 44px;
  cursor: pointer;
}
.waits {
  padding: 8px 12px;
  background: var(--glue-soft);
  border-left: 5px solid var(--glue);
}
.wrong {
  padding: 10px 12px;
  font-weight: 600;
  background: var(--leak-soft);
  border-left: 5px solid var(--leak);
}
.graded {
  padding: 14px 16px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 6px solid var(--glue);
}
.graded:focus {
  outline: none;
}
.graded.clean {
  border-left-color: var(--good);
}
.graded h2 {
  margin: 0 0 8px;
}
.told {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 16px;
}
.told ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.told li {
  display: flex;
  gap: 8px;
  padding: 6px 0;
  color: var(--ink);
}
.told li > :first-child {
  font-weight: 700;
  color: var(--leak);
}
.told li.good > :first-child {
  color: var(--good);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  margin-top: 14px;
}
.acts :deep(button) {
  min-height: 48px;
}
@media (max-width: 760px) {
  .told {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
