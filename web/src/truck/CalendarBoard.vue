<script setup lang="ts">
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import { computed, onUnmounted, ref, shallowRef, watch } from "vue";
import { api, sentence, type CalendarAnswer, type Covering, type SiteSpec } from "../api/client";
import FilePick from "../fields/FilePick.vue";
import {
  clock,
  dateOf,
  dayOf,
  dayText,
  dayWeather,
  drawnDays,
  keptOf,
  movedBars,
  nightMarks as marks,
  stints,
  type Stint,
} from "../lib/calendar";
import { useJob } from "../stores/job";
import { s } from "../strings";
import CalendarBars from "./CalendarBars.vue";
import HourPicture from "./HourPicture.vue";
import MinutesTaken from "./MinutesTaken.vue";
import OtherWay from "./OtherWay.vue";
import SiteForm from "./SiteForm.vue";
import WhatIfPanel from "./WhatIfPanel.vue";
import { useWhatIf } from "./useWhatIf";

/** The work on a calendar: weather above, a row for each crew, nights below; each bar says why it stands where it stands. */
const job = useJob();
const answer = shallowRef<CalendarAnswer | null>(null);
const wrong = ref("");
const asking = ref(false);
const weather = ref<string | null>(null);
const weatherName = ref("");
const editing = ref(false);
/** Laid from nothing, to see what that would be. */
const anew = ref(false);
/** What takes longer is shown first as it is laid in a few orders, without its nights. */
const PATIENCE_MS = 800;
const isFirst = ref(false);
const isStopped = ref(false);
let laying: AbortController | null = null;
async function load() {
  const id = job.state?.id;
  if (id === undefined) return;
  laying?.abort();
  const mine = (laying = new AbortController());
  [asking.value, isStopped.value, wrong.value] = [true, false, ""];
  const lay = (quick: boolean) =>
    api.POST("/api/jobs/{id}/calendar", {
      params: { path: { id } },
      body: { site: null, weather: weather.value, anew: anew.value, quick, change: null },
      signal: mine.signal,
    });
  const showFirst = async () => {
    const first = await lay(true).catch(() => null);
    if (laying === mine && asking.value && first?.data) [answer.value, isFirst.value] = [first.data, true];
  };
  const late = setTimeout(() => void showFirst(), PATIENCE_MS);
  try {
    const { data, error } = await lay(false);
    if (laying !== mine) return;
    if (data) [answer.value, isFirst.value] = [data, false];
    else wrong.value = sentence(error, s.calendar.silent);
  } catch {
    if (laying !== mine) return;
    isStopped.value = mine.signal.aborted;
    if (!mine.signal.aborted) wrong.value = s.calendar.silent;
  } finally {
    clearTimeout(late);
    if (laying === mine) asking.value = false;
  }
}
/** What is shown by then stays; nothing that is on the job changes. */
const halt = () => laying?.abort();
onUnmounted(halt);
watch(
  () => [job.state?.id, job.state?.revision],
  () => void load(),
  { immediate: true },
);
async function take(file: File) {
  const MOST = 1.5 * 1024 * 1024;
  if (file.size > MOST) return void (wrong.value = s.calendar.large);
  [weather.value, weatherName.value] = [await file.text(), file.name];
  await load();
}
async function keep(site: SiteSpec) {
  if (await job.change({ edit: "set_site", site }, s.calendar.site)) editing.value = false;
}
const { tried, asking: trying, pull, attempt, drop } = useWhatIf(() => job.state?.id, answer, weather);
async function keepTried() {
  const what = tried.value;
  if (what?.change) await job.change(what.change, what.label);
  else if (what) await keep(what.site);
  drop();
}
/** What was agreed on stays as it is where it can, from now on. */
async function agree() {
  const a = answer.value;
  if (!a) return;
  anew.value = false;
  await keep({ ...a.site, kept: keptOf(a.booking) });
}
async function forget() {
  if (answer.value) await keep({ ...answer.value.site, kept: null });
}
async function layAnew() {
  anew.value = !anew.value;
  await load();
}
const pinned = (step: string) => answer.value?.site.pins?.find((p) => p.step === step) ?? null;
function withPins(steps: string[], on: string | null): SiteSpec | null {
  const site = answer.value?.site;
  if (!site) return null;
  const others = (site.pins ?? []).filter((p) => !steps.includes(p.step));
  return { ...site, pins: on ? [...others, ...steps.map((step) => ({ step, on }))] : others };
}
/** Steps of a stint are done on a day and no other; without one they are free again. */
async function pin(steps: string[], on: string | null) {
  const site = withPins(steps, on);
  if (site) await keep(site);
}
const booking = computed(() => answer.value?.booking ?? null);
/** What walls are called, from left to right. */
const wallNames = computed(() => {
  const wall = job.state?.job.wall;
  return wall ? [wall.name, ...(wall.corners ?? []).map((c) => c.name)] : [];
});
const bars = computed(() => stints(booking.value?.tasks ?? [], wallNames.value));
const days = computed(() => drawnDays(booking.value?.tasks ?? []));
/** Crews down, or places. */
const rows = ref<"crews" | "places">("crews");
const rowsBy = (["crews", "places"] as const).map((value) => ({ value, label: s.calendar.rows[value] }));
/** The minute at which the wall is looked at; none as long as nobody asks. */
const cursor = ref<number | null>(null);
function lookAtHours() {
  // From the first whole hour of work on: hours are what is shown.
  cursor.value = cursor.value === null ? Math.ceil((booking.value?.tasks[0]?.from ?? 0) / 60) * 60 : null;
}
/** The other calendar as bars, where both are wanted. */
const both = ref(false);
const other = computed(() => (both.value ? (tried.value?.booking ?? null) : null));
const chosen = ref<string | null>(null);
const stint = computed<Stint | null>(() => bars.value.find((b) => b.key === chosen.value) ?? null);
function toDay(bar: Stint, days: number) {
  const from = booking.value?.from ?? "";
  const day = Math.max(0, dayOf(bar.from) + days);
  const steps = [...new Set(bar.tasks.map((t) => t.step))];
  const site = withPins(steps, dayText(from, day));
  if (days === 0 || !site) return drop();
  pull(s.calendar.pulled(bar.place || s.calendar.walls, dateOf(from, day)), site);
}
/** Bars as they would stand. */
const ghosts = computed(() =>
  tried.value?.booking ? movedBars(booking.value?.tasks ?? [], tried.value.booking.tasks, wallNames.value) : [],
);
const night = (day: number) => booking.value?.nights.find((e) => e.day === day) ?? null;
/** Nights one after another that want the same are one line. */
const nights = computed(() => {
  const out: {
    day: number;
    until: number;
    state: keyof typeof marks;
    says: string;
    rain: number;
    covers: Covering | null;
  }[] = [];
  for (const e of booking.value?.nights ?? []) {
    const says = e.put.length ? e.put.join(" ") : e.why;
    const before = out.at(-1);
    if (before && before.says === says && before.until === e.day - 1) {
      before.until = e.day;
      before.rain += e.rain_in ?? 0;
    } else out.push({ day: e.day, until: e.day, state: e.state, says, rain: e.rain_in ?? 0, covers: e.covers ?? null });
  }
  return out.filter((e) => e.state !== "dry");
});
const dated = (day: number) => dateOf(booking.value?.from ?? "", day);
/** On a phone bars of many days say little: the next two days are read, the others where somebody asks. */
const phone = window.matchMedia("(max-width: 640px)").matches;
const allDays = ref(!phone);
const NEXT_DAYS = 2;
/** By day, to read and for whoever does not see bars. */
const worked = computed(() =>
  days.value
    .map((day) => ({ day, bars: bars.value.filter((b) => dayOf(b.from) === day), night: night(day) }))
    .filter((d) => d.bars.length > 0),
);
const list = computed(() => {
  if (allDays.value) return worked.value;
  const today = answer.value?.today ?? "";
  const coming = worked.value.filter((d) => dayText(booking.value?.from ?? "", d.day) >= today);
  return (coming.length > 0 ? coming : worked.value).slice(0, NEXT_DAYS);
});
</script>

<template>
  <section class="board" data-test="calendar">
    <p class="says">
      <b v-if="booking" data-test="calendar-says">{{ booking.says }}</b>
      <span v-if="answer" class="quiet">{{ s.calendar.weather(answer.weather) }}</span>
      <span v-if="asking" class="quiet" role="status" data-test="laying">
        {{ isFirst ? s.calendar.first : s.calendar.asking }}
        <Button size="small" text :label="s.calendar.stop" data-test="stop-laying" @click="halt" />
      </span>
      <span v-else-if="isStopped" class="quiet" role="status">
        {{ isFirst ? s.calendar.firstAlone : s.calendar.stopped }}
        <Button size="small" text :label="s.calendar.goOn" data-test="go-on-laying" @click="load" />
      </span>
      <FilePick
        :label="s.calendar.file"
        accept=".csv,.epw,text/csv"
        test="weather-file"
        :chosen="weatherName"
        @chosen="take"
      />
      <Button
        v-if="job.mayChange"
        size="small"
        severity="secondary"
        :label="s.calendar.site"
        data-test="site-form-open"
        @click="editing = !editing"
      />
    </p>
    <p v-if="wrong" class="wrong" role="alert" data-test="calendar-wrong">{{ wrong }}</p>
    <SiteForm
      v-if="editing && answer"
      :site="answer.site"
      @keep="keep"
      @attempt="(site) => attempt(s.calendar.otherCrews, site)"
      @close="editing = false"
    />
    <OtherWay
      v-if="job.mayChange && answer && booking?.tasks.length"
      :questions="job.view?.schools ?? []"
      @attempt="(label, change) => attempt(label, answer!.site, change)"
    />
    <details v-if="booking?.changed.length" class="moved" open data-test="forecast-changed">
      <summary>{{ s.calendar.changed }}</summary>
      <ul>
        <li v-for="c in booking.changed" :key="c">{{ c }}</li>
      </ul>
    </details>
    <p v-for="w in booking?.warns ?? []" :key="w" class="warn">{{ w }}</p>
    <p v-if="booking && booking.tasks.length" class="agreed">
      <span data-test="agreed">{{
        anew ? s.calendar.isAnew : booking.kept ? s.calendar.isKept(booking.moved.length) : s.calendar.notKept
      }}</span>
      <Button
        v-if="job.mayChange && !isFirst && (!booking.kept || booking.moved.length)"
        size="small"
        :label="booking.kept ? s.calendar.agreeMoves : s.calendar.agree"
        data-test="agree"
        @click="agree"
      />
      <Button
        v-if="booking.kept || anew"
        size="small"
        severity="secondary"
        :label="anew ? s.calendar.near : s.calendar.anew"
        data-test="anew"
        @click="layAnew"
      />
      <Button
        v-if="job.mayChange && booking.kept"
        size="small"
        text
        severity="secondary"
        :label="s.calendar.forget"
        data-test="forget-kept"
        @click="forget"
      />
    </p>
    <details v-if="booking?.moved.length" class="moved" open data-test="moved">
      <summary>{{ s.calendar.moved(booking.moved.length) }}</summary>
      <ul>
        <li v-for="m in booking.moved" :key="m.step">
          <b>{{ m.title }}</b><template v-if="m.place">, {{ m.place }}</template
          >: {{ dated(dayOf(m.was)) }} → {{ dated(dayOf(m.from))
          }}<template v-if="m.by !== m.crew">, {{ booking.crews[m.by] }} → {{ booking.crews[m.crew] }}</template
          >.
          <span class="quiet">{{ m.why }}</span>
        </li>
      </ul>
    </details>
    <p v-if="booking && booking.tasks.length" class="shown no-print">
      <SelectButton
        v-model="rows"
        :options="rowsBy"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        :aria-label="s.calendar.rowsBy"
        data-test="calendar-rows"
      />
      <Button
        size="small"
        severity="secondary"
        :label="cursor === null ? s.calendar.lookAtHours : s.calendar.noHours"
        :aria-pressed="cursor !== null"
        data-test="hour-open"
        @click="lookAtHours"
      />
    </p>
    <CalendarBars
      v-if="booking && booking.tasks.length"
      :booking="booking"
      :rows="rows"
      :cursor="cursor"
      :hours="answer?.hours ?? []"
      :bars="bars"
      :ghosts="ghosts"
      :chosen="chosen"
      :tried="tried !== null"
      :may-pull="job.mayChange"
      @choose="(key) => (chosen = key)"
      @pull="toDay"
      @drop="drop"
    />
    <p v-if="booking?.tasks.length" class="quiet worked" data-test="worked">
      {{ s.calendar.worked }}
      <span v-for="h in booking.hours" :key="h.crew">{{
        h.covering_says ? `${h.says}; ${h.covering_says}` : h.says
      }}</span>
    </p>
    <p v-if="job.mayChange && booking?.tasks.length" class="quiet pull-help">{{ s.calendar.pull }}</p>
    <HourPicture
      v-if="cursor !== null && booking"
      v-model="cursor"
      :booking="booking"
      :days="days"
      :weather="weather"
      :anew="anew"
    />
    <WhatIfPanel
      v-if="tried && booking"
      v-model:both="both"
      :tried="tried"
      :now="booking"
      :asking="trying"
      @keep="keepTried"
      @drop="drop"
    />
    <section v-if="other" class="other" data-test="other-calendar">
      <h3>{{ tried?.label }}: {{ other.says }}</h3>
      <CalendarBars
        :booking="other"
        :rows="rows"
        :cursor="null"
        :hours="answer?.hours ?? []"
        :bars="stints(other.tasks, wallNames)"
        :ghosts="[]"
        :chosen="null"
        :tried="false"
        :may-pull="false"
      />
    </section>
    <div v-if="stint && booking" class="chosen" role="status" data-test="chosen-bar">
      <b
        >{{ booking.crews[stint.crew] }}, {{ stint.place || s.site.walls }}, {{ dated(dayOf(stint.from)) }}
        {{ clock(stint.from) }}–{{ clock(stint.to) }}</b
      >
      <p v-if="job.mayChange" class="pin">
        <label
          >{{ s.calendar.pin }}
          <input
            type="date"
            :value="pinned(stint.tasks[0]?.step ?? '')?.on ?? dayText(booking.from, dayOf(stint.from))"
            data-test="pin-day"
            @change="
              pin(
                stint.tasks.map((t) => t.step),
                ($event.target as HTMLInputElement).value,
              )
            "
        /></label>
        <Button
          v-if="stint.tasks.some((t) => pinned(t.step))"
          size="small"
          text
          :label="s.calendar.unpin"
          data-test="unpin"
          @click="
            pin(
              stint.tasks.map((t) => t.step),
              null,
            )
          "
        />
      </p>
      <ol>
        <li v-for="t in stint.tasks" :key="t.step + t.from">
          {{ clock(t.from) }}
          <RouterLink :to="{ name: 'wall', params: { id: String(job.state?.id) }, query: { step: t.step } }">{{
            t.title
          }}</RouterLink>
          <span class="quiet">{{ t.why }}</span>
        </li>
      </ol>
    </div>
    <ul class="nights">
      <li v-for="e in nights" :key="e.day" :data-night-of="e.day">
        <b>{{ marks[e.state] }} {{ s.calendar.nightOf(dated(e.day), e.until > e.day ? dated(e.until) : "") }}</b>
        <span v-if="e.rain > 0" class="wet">{{ s.calendar.rain(e.rain, e.until > e.day) }}</span>
        {{ e.says }}
        <span v-if="e.covers" class="quiet">{{
          s.calendar.covering(booking?.crews[e.covers.crew] ?? "", clock(e.covers.from), clock(e.covers.to))
        }}</span>
      </li>
    </ul>
    <p v-if="booking" class="files">
      <a
        v-for="(c, n) in booking.crews"
        :key="c"
        :href="`/api/jobs/${job.state?.id}/calendar.ics?crew=${n}`"
        download
        >{{ s.calendar.ics(c) }}</a
      >
      <a
        v-for="(c, n) in booking.crews"
        :key="`week-${c}`"
        :href="`/api/jobs/${job.state?.id}/calendar/weeks.pdf?crew=${n}`"
        download
        data-test="weeks"
        >{{ s.calendar.weeks(c) }}</a
      >
      <a :href="`/api/jobs/${job.state?.id}/calendar/calendar.csv`" download>{{ s.calendar.csv }}</a>
      <a :href="`/api/jobs/${job.state?.id}/calendar/calendar.xlsx`" download>{{ s.calendar.xlsx }}</a>
    </p>
    <MinutesTaken />
    <details class="list" :open="phone" data-test="calendar-list">
      <summary>{{ s.calendar.list }}</summary>
      <section v-for="d in list" :key="d.day" :data-day="d.day">
        <h3>{{ dated(d.day) }}</h3>
        <p v-if="phone && dayWeather(answer?.hours ?? [], d.day)" class="quiet">
          {{ s.calendar.air(dayWeather(answer?.hours ?? [], d.day)) }}
        </p>
        <ul>
          <li v-for="b in d.bars" :key="b.key">
            {{ clock(b.from) }}–{{ clock(b.to) }} <b>{{ booking?.crews[b.crew] }}</b> {{ b.place || s.site.walls }}:
            {{ b.tasks.map((t) => t.title).join(", ") }}
            <span class="quiet">{{ b.tasks[0]?.why }}</span>
          </li>
        </ul>
        <p v-if="phone && d.night && d.night.state !== 'dry'" class="warn">
          {{ marks[d.night.state] }} {{ s.calendar.nightOf(dated(d.day), "") }}
          {{ d.night.put.join(" ") || d.night.why }}
        </p>
      </section>
      <Button
        v-if="phone && worked.length > NEXT_DAYS"
        size="small"
        severity="secondary"
        :label="allDays ? s.calendar.nextDays : s.calendar.everyDay"
        data-test="every-day"
        @click="allDays = !allDays"
      />
    </details>
  </section>
</template>

<style scoped>
.worked {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  margin: 4px 0;
}
.says {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}
.agreed,
.shown,
.pin {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  margin: 6px 0;
}
.pin input {
  min-height: 36px;
  font: inherit;
}
.moved {
  margin: 6px 0;
  padding: 4px 12px;
  background: var(--sheet);
  border-left: 4px solid var(--focus);
}
.moved ul {
  margin: 0;
  padding-left: 18px;
}
.says b {
  font-size: 1.25rem;
}
.wrong,
.warn {
  margin: 6px 0;
  padding: 8px 12px;
  background: var(--glue-soft);
  border-left: 4px solid var(--glue);
}
.wrong {
  background: var(--leak-soft);
  border-color: var(--leak);
}
@media (max-width: 640px) {
  .nights,
  .files {
    display: none;
  }
}
.chosen {
  margin-top: 10px;
  padding: 10px 14px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.chosen .quiet {
  margin-left: 8px;
}
.chosen ol {
  margin: 6px 0 0;
  padding-left: 20px;
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
}
.nights {
  margin: 10px 0;
  padding: 0;
  list-style: none;
}
.nights li {
  padding: 4px 0;
}
.wet {
  margin: 0 6px;
  padding: 1px 6px;
  background: var(--water-soft);
}
summary {
  min-height: 32px;
  font-weight: 650;
}
</style>
