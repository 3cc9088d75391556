<script setup lang="ts">
import { useOnline, useWakeLock } from "@vueuse/core";
import { computed, onMounted, onUnmounted, ref, watch } from "vue";
import { useRoute } from "vue-router";
import type { Check, Conditions, Edit, RecordEvent, StepView } from "../api/client";
import { byNearness, dayOf, heldBy, isOver, nextOf, stepsOn } from "../lib/site";
import CheckSheet from "../site/CheckSheet.vue";
import DifferentSheet from "../site/DifferentSheet.vue";
import GoSheet from "../site/GoSheet.vue";
import MeasureSheet from "../site/MeasureSheet.vue";
import SaySheet from "../site/SaySheet.vue";
import ScanSheet from "../site/ScanSheet.vue";
import TestSheet from "../site/TestSheet.vue";
import { takeAlong } from "../site/offline";
import "../site/sheet.css";
import { useJob } from "../stores/job";
import { useRecord } from "../stores/record";
import { useMe } from "../stores/me";
import LanguageChoice from "../shell/LanguageChoice.vue";
import { locale } from "../lib/language";
import { s } from "../strings";
import StepPicture from "../wall/StepPicture.vue";

/** For one gloved hand: a place, one step of it, what to check, and done. */
const job = useJob();
const record = useRecord();
const route = useRoute();
const online = useOnline();
/** The job in hand is on this device and needs no signal. */
const along = ref(false);
/** Who signed in writes down under their own name. */
const me = useMe();
if (me.me?.person && record.who !== me.me.person.name) record.setWho(me.me.person.name);
const name = ref(record.who);
const asking = ref(record.who === "");
const place = computed(() =>
  typeof route.params.place === "string" && route.params.place !== "" ? route.params.place : null,
);
/** The walls themselves have no id of their own. */
const WALLS = "walls";
const opening = computed(() => (place.value === WALLS ? "" : place.value));
const left = ref(localStorage.getItem("kame-left") === "1");
watch(left, (now) => localStorage.setItem("kame-left", now ? "1" : "0"));

watch(
  () => job.state?.id,
  (id) => {
    if (id === undefined) return;
    record.open(id);
    const ids = (job.state?.job.openings ?? []).map((o) => o.id);
    void takeAlong(id, ids, () => (along.value = true));
  },
  { immediate: true },
);
watch(online, (now) => now && void record.send());

const stepsAt = computed(() => {
  const map = new Map<string, StepView[]>();
  for (const x of job.view?.steps ?? []) if (!x.removed) map.set(x.opening, [...(map.get(x.opening) ?? []), x]);
  return map;
});
/** What the calendar that was agreed on has for today. */
const onToday = computed(() => stepsOn(dayOf(new Date()), job.state?.job.site?.kept));
const places = computed(() => {
  const openings = (job.state?.job.openings ?? []).map((o) => ({ id: o.id, name: o.name, key: o.id }));
  const all = [{ id: "", name: s.site.walls, key: WALLS }, ...openings].flatMap((p) => {
    const steps = stepsAt.value.get(p.id) ?? [];
    if (steps.length === 0) return [];
    const done = steps.filter((x) => isOver(record.now(x.id))).length;
    const failed = steps.some((x) => record.now(x.id) === "failed");
    const today = steps.some((x) => onToday.value.has(x.id) && !isOver(record.now(x.id)));
    return [{ ...p, done, all: steps.length, failed, today, next: nextOf(steps, record.now) }];
  });
  const at = new Map((job.view?.elevation.openings ?? []).map((o) => [o.id, (o.rect[0] ?? 0) + (o.rect[2] ?? 0) / 2]));
  return byNearness(all, (id) => at.get(id) ?? 0, lastPlace.value);
});
/** Where somebody last wrote something down. */
const lastPlace = computed(() => {
  const waiting = record.waiting.at(-1)?.place;
  if (waiting) return waiting;
  let last = { at: "", place: "" };
  for (const x of job.view?.steps ?? []) {
    const at = record.states.get(x.id)?.at ?? "";
    if (x.opening && at > last.at) last = { at, place: x.opening };
  }
  return last.place || null;
});
const steps = computed(() => (opening.value === null ? [] : (stepsAt.value.get(opening.value) ?? [])));
const chosen = ref<string | null>(null);
watch(
  [place, () => job.state?.id],
  () => {
    chosen.value = null;
    if (opening.value !== null && job.state) void record.loadPlace(opening.value);
  },
  { immediate: true },
);
watch(
  () => job.state?.revision,
  () => opening.value !== null && void record.loadPlace(opening.value),
);
const step = computed(
  () => steps.value.find((x) => x.id === chosen.value) ?? nextOf(steps.value, record.now) ?? steps.value.at(-1) ?? null,
);
const index = computed(() => steps.value.findIndex((x) => x.id === step.value?.id));
const checks = computed(() => record.checks.filter((c) => c.step === step.value?.id && !c.removed));
const picture = computed(() => record.pictures.get(step.value?.id ?? ""));

/** What was last said to each check: on record, and on this device after that. */
const taken = computed(() => {
  const all = new Map<string, boolean | null>();
  for (const x of record.states.values()) {
    [...x.read.map((r) => r.check), ...x.unreached].forEach((id) => all.set(id, null));
    x.good.forEach((id) => all.set(id, true));
    [...x.bad, ...x.mended].forEach((id) => all.set(id, false));
  }
  record.said.forEach((good, id) => all.set(id, good));
  return all;
});
const held = computed(() => {
  if (!step.value) return null;
  const by = heldBy(steps.value, step.value.id, record.checks, (id) => taken.value.get(id));
  return by && !by.stops && aloneFor.value.has(step.value.id) ? null : by;
});
/** Checks whose numbers stand on a picture of the opening; those of other steps here give what is known of it besides. */
const measured = computed(() => checks.value.filter((c) => c.spots.length > 0));
const openingView = computed(() => job.view?.elevation.openings.find((o) => o.id === opening.value) ?? null);
/** What sticks, coats or seals asks what it is like here now. */
const asksWeather = computed(() =>
  checks.value.some((c) => c.quantity === "temperature" || c.check === "bead-unbroken"),
);
const weatherHere = ref<Conditions>({
  surface_f: null,
  air_f: null,
  humidity: null,
  wet: false,
  frost: false,
  sun: false,
  wind_mph: null,
  rain_in_h: null,
});
const differ = computed(() => record.states.get(step.value?.id ?? "")?.differ ?? []);
const toMend = computed(() => checks.value.filter((c) => taken.value.get(c.id) === false).length);
type Open = "scan" | "measure" | "go" | "test";
const open = ref<Open | null>(null);
const asked = (what: RecordEvent["what"], note: string) => record.entry(what, at(), note);
function keepMeasured(all: RecordEvent["what"][]) {
  for (const what of all) record.add(what, at());
  feel();
  open.value = null;
}
function keepNote(text: string) {
  record.add({ is: "noted" }, at(), text);
  feel();
  open.value = null;
}
function keepTest(what: RecordEvent["what"], note: string, photos: string[]) {
  record.add(what, at(), note, record.who, photos);
  feel();
  open.value = null;
}
/** What is different: the plan follows where it can, and what was done stands on record. */
async function keepDifferent(what: RecordEvent["what"], note: string, photos: string[], change: Edit | null) {
  const here = index.value;
  saying.value = null;
  record.add(what, at(), note, record.who, photos);
  feel();
  if (change) await job.change(change, s.site.otherwise);
  goOn(here);
}
const aloneFor = ref(new Set<string>());

const at = () => ({ place: opening.value ?? "", step: step.value?.id ?? "" });
const sheet = ref<Check | null>(null);
type Saying = "otherwise" | "left_out" | "stopped" | "alone";
const saying = ref<Saying | null>(null);
function feel() {
  if ("vibrate" in navigator) navigator.vibrate(40);
}
function done() {
  if (!step.value) return;
  const here = index.value;
  record.add({ is: "done" }, at());
  feel();
  goOn(here);
}
/** To the next step that wants something; one that failed stays behind, and is seen in the list. */
function goOn(from: number) {
  const rest = steps.value.slice(from + 1);
  chosen.value = (nextOf(rest, record.now) ?? rest[0])?.id ?? chosen.value;
}
function keepCheck(what: RecordEvent["what"], by: string, photos: string[], note: string) {
  const c = sheet.value;
  if (!c) return;
  record.add(what, { place: c.opening, step: c.step }, note, by, photos);
  feel();
  sheet.value = null;
}
function keepSaid(note: string, photos: string[]) {
  const how = saying.value;
  if (!how || !step.value) return;
  const here = index.value;
  if (how === "alone") {
    record.add({ is: "noted" }, at(), note, record.who, photos);
    aloneFor.value = new Set(aloneFor.value).add(step.value.id);
  } else if (how !== "otherwise") record.add({ is: how }, at(), note, record.who, photos);
  feel();
  saying.value = null;
  if (how !== "alone" && how !== "stopped") goOn(here);
}
const asks = {
  otherwise: s.site.otherwiseAsk,
  left_out: s.site.leftOutAsk,
  stopped: s.site.stopAsk,
  alone: s.site.aloneAsk,
};
/** What the night at this place wants, where nights are known. */
const tonight = computed(() => job.nights?.find((n) => n.step === step.value?.id)?.put ?? []);
function stop() {
  if (!job.nights) void job.loadNights();
  saying.value = "stopped";
}
function go(by: 1 | -1) {
  chosen.value = steps.value[index.value + by]?.id ?? chosen.value;
}
function setWho() {
  if (name.value.trim() === "") return;
  record.setWho(name.value);
  asking.value = false;
}
const wake = useWakeLock();
onMounted(() => void wake.request("screen").catch(() => undefined));
onUnmounted(() => void wake.release().catch(() => undefined));
const state = computed(() => (step.value ? record.now(step.value.id) : "open"));
</script>

<template>
  <main class="site" :class="{ left }" data-test="site">
    <p class="line" role="status" :class="{ waits: record.waiting.length > 0 }" data-test="waits">
      <span
        >{{ record.waiting.length ? s.site.waits(record.waiting.length) : s.site.sent
        }}<template v-if="along"> · {{ s.site.along }}</template></span
      >
      <button v-if="record.who" class="who" @click="asking = true">{{ record.who }} · {{ s.site.change }}</button>
    </p>
    <p v-if="record.silent && record.heard" class="old" role="status" data-test="old">
      {{ s.site.old(new Date(record.heard).toLocaleString(locale)) }}
    </p>
    <p v-if="record.refused || record.aside.length" class="refused" role="alert" data-test="refused">
      <b>{{ s.site.notSent }}:</b> {{ record.refused }}
      <template v-if="record.aside.length">{{ s.site.aside(record.aside.length) }}</template>
    </p>
    <p v-if="record.ahead" class="refused" role="alert" data-test="clock">{{ s.site.clock(record.ahead) }}</p>
    <form v-if="asking" class="card" @submit.prevent="setWho">
      <label for="who">{{ s.site.who }}</label>
      <input id="who" v-model="name" :readonly="!!me.me?.person" autocomplete="name" maxlength="60" data-test="who" />
      <p>{{ s.site.whoHelp }}</p>
      <label class="hand"><input v-model="left" type="checkbox" /> {{ s.site.hand }}</label>
      <LanguageChoice />
      <button class="big" :disabled="name.trim() === ''" data-test="who-go">{{ s.site.whoGo }}</button>
    </form>
    <template v-else-if="!place">
      <h2>{{ s.site.places }}</h2>
      <p class="quiet">{{ s.site.nearest }}</p>
      <p v-if="job.view && places.length === 0">{{ s.site.none }}</p>
      <ul class="places">
        <li v-for="p in places" :key="p.key">
          <RouterLink :to="{ name: 'site', params: { id: route.params.id, place: p.key } }" :data-site-place="p.key">
            <span class="mark" aria-hidden="true">{{ p.failed ? "✕" : p.next ? "" : "✓" }}</span>
            <span class="text">
              <b
                >{{ p.id }} {{ p.name }} <em v-if="p.today" class="today" data-test="today">{{ s.site.today }}</em></b
              >
              <small>{{ p.next ? p.next.title : s.site.allDone }}</small>
            </span>
            <span class="count">{{ p.done }}/{{ p.all }}</span>
          </RouterLink>
        </li>
      </ul>
      <button class="wide" data-test="scan-open" @click="open = 'scan'">{{ s.scan.title }}</button>
      <p class="row">
        <RouterLink :to="{ name: 'walk', params: { id: route.params.id } }" class="link" data-test="walk">{{
          s.site.walk
        }}</RouterLink>
      </p>
    </template>
    <template v-else-if="step">
      <p class="where">
        <RouterLink
          class="back"
          :to="{ name: 'site', params: { id: route.params.id, place: '' } }"
          data-test="all-places"
          >‹ {{ s.site.back }}</RouterLink
        >
        <b>{{ opening || s.site.walls }}</b>
        <span data-test="step-of">{{ s.site.step(index + 1, steps.length) }}</span>
      </p>
      <h2 :data-step="step.id">
        {{ step.title }} <small v-if="state !== 'open'" :class="state">{{ s.site.states[state] }}</small>
      </h2>
      <div v-if="picture" class="picture"><StepPicture :picture="picture" /></div>
      <ul v-if="step.cuts.length" class="cuts">
        <li v-for="(c, i) in step.cuts" :key="i">
          <b class="letter">{{ c.letter }}</b><span>{{ c.name }}</span
          ><strong>{{ c.size }}</strong>
        </li>
      </ul>
      <p v-if="step.card.caution" class="caution">
        <b>{{ s.card.caution }}</b> {{ step.card.caution }}
      </p>
      <p v-if="held?.stops" class="held" role="alert" data-test="held">
        <b>{{ s.site.stopsTitle }}.</b> {{ s.site.stops(held.name) }}
        <span v-for="(t, i) in tonight" :key="i">{{ t }}</span>
        <button data-test="look-now" @click="sheet = held">{{ held.name }}</button>
        <a :href="`/api/jobs/${job.state?.id}/damage.pdf?opening=${opening}`" download data-test="damage">{{
          s.site.damage
        }}</a>
      </p>
      <p v-else-if="held" class="held" role="alert" data-test="held">
        <b>{{ s.site.heldTitle }}.</b> {{ s.site.held(held.name) }}
        <button data-test="look-now" @click="sheet = held">{{ held.name }}</button>
        <button data-test="alone" @click="saying = 'alone'">{{ s.site.alone }}</button>
      </p>
      <p v-for="d in differ" :key="d.check" class="held" role="alert" data-test="differ">
        <b>{{ s.site.differ }}.</b> {{ s.site.differSays(d.who[0] ?? "", d.who[1] ?? "") }}
      </p>
      <p class="do">{{ step.card.what }}</p>
      <p v-if="step.card.over" class="do">
        <b>{{ step.card.over }}</b>
      </p>
      <p v-for="t in step.primes" :key="t" class="do">{{ s.card.prime }} {{ t }}</p>
      <div class="asks">
        <button v-if="measured.length && openingView" class="big" data-test="measure-open" @click="open = 'measure'">
          {{ s.site.measure }}
        </button>
        <button v-if="asksWeather" data-test="go-open" @click="open = 'go'">{{ s.go.button }}</button>
      </div>
      <h3 v-if="checks.length">
        {{ s.site.checks }} <small v-if="toMend" class="failed">{{ s.site.toMend(toMend) }}</small>
      </h3>
      <ul class="checks">
        <li v-for="c in checks" :key="c.id">
          <button :data-site-check="c.check" :data-site-id="c.id" @click="sheet = c">
            <span class="mark" aria-hidden="true">{{
              taken.has(c.id) ? (taken.get(c.id) === false ? "✕" : "✓") : "○"
            }}</span>
            <span class="text"
              >{{ c.name }} <b>{{ c.asked }}</b>
              <small v-if="taken.get(c.id) === false"
                >{{ s.site.mend }}. {{ s.site.guards }} {{ c.guards.join(", ") }}</small
              ></span
            >
          </button>
        </li>
      </ul>
      <RouterLink
        v-if="toMend"
        class="wide mending"
        :to="{ name: 'repair', params: { id: route.params.id }, query: { step: step.id } }"
        data-test="mend-step"
        >{{ s.repair.canBeDone }}</RouterLink
      >
      <RouterLink
        class="wide mending"
        :to="{ name: 'repair', params: { id: route.params.id } }"
        data-test="found-here"
        >{{ s.repair.open }}</RouterLink
      >
      <button data-test="test-open" class="wide" @click="open = 'test'">{{ s.site.test }}</button>
      <details v-if="step.card.why">
        <summary>{{ s.site.why }}</summary>
        <p>{{ step.card.why }}</p>
      </details>
      <div class="bar">
        <div class="row">
          <button :aria-label="s.site.before" :disabled="index <= 0" @click="go(-1)">‹</button>
          <button class="big" :disabled="held !== null || isOver(state)" data-test="done" @click="done">
            {{ isOver(state) ? s.site.isDone : `✓ ${s.site.done}` }}
          </button>
          <button :aria-label="s.site.after" :disabled="index >= steps.length - 1" data-test="after" @click="go(1)">
            ›
          </button>
        </div>
        <div class="row">
          <button data-test="otherwise" @click="saying = 'otherwise'">{{ s.site.otherwise }}</button>
          <button data-test="left-out" @click="saying = 'left_out'">{{ s.site.leftOut }}</button>
          <button data-test="stop" @click="stop">{{ s.site.stop }}</button>
        </div>
      </div>
    </template>
    <CheckSheet
      v-if="sheet"
      :key="sheet.id"
      :check="sheet"
      :who="record.who"
      :again="taken.get(sheet.id) === false"
      @keep="keepCheck"
      @close="sheet = null"
    />
    <MeasureSheet
      v-if="open === 'measure' && step && openingView"
      :key="step.id"
      :checks="measured"
      :opening="openingView"
      :known="record.readings"
      :title="`${opening} ${step.title}`"
      @keep="keepMeasured"
      @close="open = null"
    />
    <GoSheet
      v-if="open === 'go' && step"
      v-model="weatherHere"
      :step="step.id"
      :title="step.title"
      @note="keepNote"
      @close="open = null"
    />
    <ScanSheet v-if="open === 'scan'" @close="open = null" />
    <TestSheet v-if="open === 'test'" :place="opening ?? ''" @keep="keepTest" @close="open = null" />
    <DifferentSheet
      v-if="saying === 'otherwise' && step"
      :step="step"
      :opening="openingView"
      :event="asked"
      @keep="keepDifferent"
      @close="saying = null"
    />
    <SaySheet
      v-else-if="saying"
      :ask="asks[saying]"
      :tonight="saying === 'stopped' ? tonight : []"
      @keep="keepSaid"
      @close="saying = null"
    />
  </main>
</template>

<style scoped>
.site {
  box-sizing: border-box;
  width: 100%;
  max-width: 640px;
  margin: 0 auto;
  padding: 8px 14px 200px;
  font-size: 1.1rem;
}
.line {
  display: flex;
  gap: 10px;
  align-items: center;
  justify-content: space-between;
  margin: 0;
  font-size: 0.95rem;
}
.waits {
  font-weight: 700;
}
.old {
  margin: 4px 0;
  padding: 6px 10px;
  background: var(--glue-soft);
}
.who {
  min-height: 44px;
  padding: 0 8px;
  font: inherit;
  color: var(--ink);
  background: none;
  border: 0;
  text-decoration: underline;
}
h2 {
  margin: 6px 0 10px;
  font-size: 1.6rem;
}
h2 small {
  font-size: 0.95rem;
  font-weight: 600;
  color: var(--good);
}
h2 small.failed {
  color: var(--leak);
}
.places,
.checks,
.cuts {
  margin: 0;
  padding: 0;
  list-style: none;
}
.places a {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 64px;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 1px solid var(--line);
}
.text {
  flex: 1;
  display: grid;
  text-align: left;
}
.mark {
  width: 24px;
  font-weight: 700;
  text-align: center;
}
.count {
  font-weight: 650;
}
.where {
  display: flex;
  gap: 12px;
  align-items: center;
  margin: 0;
}
.where span {
  margin-left: auto;
}
.back {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
  color: var(--ink);
}
.picture {
  height: 230px;
  border: 1px solid var(--line);
  background: var(--wall);
}
.picture > * {
  height: 100%;
}
.cuts li {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.cuts span {
  flex: 1;
}
.cuts strong {
  font-size: 1.6rem;
}
.letter {
  min-width: 34px;
  font-size: 1.3rem;
  text-align: center;
  border: 2px solid var(--ink);
}
.caution {
  margin: 10px 0;
  padding: 8px 12px;
  background: var(--glue-soft);
  border-left: 5px solid var(--glue);
  color: var(--ink);
}
.held,
.refused {
  display: grid;
  gap: 8px;
  margin: 10px 0;
  padding: 10px 12px;
  background: var(--leak-soft);
  border-left: 5px solid var(--leak);
}
.do {
  margin: 10px 0;
}
h3 {
  margin: 14px 0 4px;
  font-size: 1.1rem;
}
button {
  min-height: 52px;
  padding: 0 14px;
  font: inherit;
  font-weight: 650;
  color: var(--ink);
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
button:disabled {
  opacity: 0.45;
}
.site button,
.site a,
summary {
  scroll-margin: 60px 0 220px;
}
.checks button {
  display: flex;
  gap: 8px;
  align-items: center;
  width: 100%;
  margin-bottom: 6px;
  font-weight: 500;
}
details {
  margin: 10px 0;
}
summary {
  min-height: 44px;
  padding-top: 8px;
  font-weight: 650;
}
.bar {
  position: fixed;
  right: 0;
  bottom: 0;
  left: 0;
  z-index: 5;
  display: grid;
  gap: 8px;
  max-width: 640px;
  margin: 0 auto;
  padding: 8px 14px 10px;
  background: var(--paper);
  border-top: 1.5px solid var(--ink);
}
.row {
  display: flex;
  gap: 8px;
}
.left .row {
  flex-direction: row-reverse;
}
.row > * {
  flex: 1;
}
.big {
  flex: 3;
  min-height: 64px;
  font-size: 1.35rem;
  color: var(--shell-ink);
  background: var(--shell);
}
.card {
  display: grid;
  gap: 10px;
  margin-top: 20px;
}
.card > label {
  font-size: 1.3rem;
  font-weight: 650;
}
.hand {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
  font-size: 1.1rem !important;
}
.card input:not([type="checkbox"]) {
  min-height: 56px;
  padding: 0 12px;
  font: inherit;
  font-size: 1.3rem;
  color: var(--ink);
  background: var(--sheet);
  border: 1.5px solid var(--ink);
}
.asks {
  display: grid;
  gap: 8px;
}
.wide {
  width: 100%;
}
.mending {
  display: flex;
  align-items: center;
  justify-content: center;
  box-sizing: border-box;
  min-height: 52px;
  margin-bottom: 8px;
  font-weight: 650;
  color: var(--ink);
  text-decoration: none;
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
.link {
  display: inline-flex;
  align-items: center;
  min-height: 52px;
  padding: 0 14px;
  font-weight: 650;
  color: var(--ink);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
h3 .failed {
  color: var(--leak);
}
.text small {
  color: var(--leak);
}
.today {
  padding: 1px 7px;
  font-size: 0.85em;
  font-style: normal;
  color: var(--shell-ink);
  background: var(--shell);
  border-radius: 4px;
}
.places .text small {
  color: var(--ink-soft);
}
@media (max-width: 760px) {
  .bar {
    bottom: 53px;
  }
}
</style>
