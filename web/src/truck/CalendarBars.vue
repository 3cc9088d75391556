<script setup lang="ts">
import { computed, ref, shallowRef, watch } from "vue";
import type { Booking, Hour } from "../api/client";
import {
  DAY_W,
  FROM_H,
  TO_H,
  clock,
  dateOf,
  dayOf,
  dayWeather,
  drawnDays,
  nightMarks as marks,
  xOf,
  type Stint,
} from "../lib/calendar";
import { s } from "../strings";

/**
 * A calendar as bars: weather above, a row for each crew or for each place, what stands in the open as fuses, nights below. A bar can be pulled to
 * another day.
 */
const props = defineProps<{
  booking: Booking;
  hours: Hour[];
  bars: Stint[];
  ghosts: Stint[];
  chosen: string | null;
  /** True while something is tried beside what stands. */
  tried: boolean;
  mayPull: boolean;
  /** What stands in the rows. */
  rows: "crews" | "places";
  /** The minute that is looked at, if any. */
  cursor: number | null;
}>();
const emit = defineEmits<{ choose: [key: string]; pull: [bar: Stint, days: number]; drop: [] }>();
const days = computed(() => drawnDays(props.booking.tasks));
const first = computed(() => days.value[0] ?? 0);
const dated = (day: number) => dateOf(props.booking.from, day);
const night = (day: number) => props.booking.nights.find((e) => e.day === day) ?? null;
const covers = computed(() =>
  props.rows === "crews" ? props.booking.nights.flatMap((e) => (e.covers ? [e.covers] : [])) : [],
);
const width = computed(() => days.value.length * DAY_W);
const HEAD = 78;
const FUSE = 22;
const ROW = computed(() => (props.rows === "crews" ? 46 : 28));
/** Places in the order in which somebody is first there. */
const places = computed(() => [...new Set(props.bars.map((b) => b.place))]);
const names = computed(() =>
  props.rows === "crews" ? props.booking.crews : places.value.map((p) => p || s.calendar.walls),
);
const rowOf = (b: Stint) => (props.rows === "crews" ? b.crew : places.value.indexOf(b.place));
const labelOf = (b: Stint) =>
  props.rows === "crews" ? b.place || s.calendar.walls : (props.booking.crews[b.crew] ?? "");
/** As wide as a letter on a bar: what has no room is left out. */
const LETTER = 7.5;
const crewsEnd = computed(() => HEAD + ROW.value * names.value.length);
/** Where the minute that is looked at stands; none where it is not drawn. */
const cursorX = computed(() => (props.cursor === null ? null : xOf(props.cursor, first.value)));
const height = computed(() => crewsEnd.value + 8 + FUSE * props.booking.fuses.length + 40);
/** Where a minute of a fuse stands, within what is drawn. */
const fuseX = (minute: number) => Math.min(width.value, Math.max(0, xOf(Math.max(0, minute), first.value)));
const rain = computed(() =>
  props.hours
    .filter(
      (h) =>
        h.rain_in > 0.004 &&
        days.value.includes(dayOf(h.minute)) &&
        h.minute % 1440 >= FROM_H * 60 &&
        h.minute % 1440 < TO_H * 60,
    )
    .map((h) => ({
      x: xOf(h.minute, first.value),
      w: DAY_W / (TO_H - FROM_H),
      h: Math.min(30, 4 + h.rain_in * 160),
      key: h.minute,
    })),
);
/** A bar that is pulled to another day: by the pointer, or by Alt and the arrow keys. */
const pulled = shallowRef<{ bar: Stint; x: number; days: number } | null>(null);
function grab(e: PointerEvent, bar: Stint) {
  emit("choose", bar.key);
  if (!props.mayPull || e.button !== 0) return;
  (e.currentTarget as Element).setPointerCapture(e.pointerId);
  pulled.value = { bar, x: e.clientX, days: 0 };
}
function haul(e: PointerEvent) {
  const p = pulled.value;
  if (!p) return;
  const days = Math.round((e.clientX - p.x) / DAY_W);
  if (days === p.days) return;
  pulled.value = { ...p, days };
  emit("pull", p.bar, days);
}
/** What it comes to stays to be read; nothing is kept before somebody says so. */
const letGo = () => (pulled.value = null);
function nudge(e: KeyboardEvent, bar: Stint) {
  if (e.key === "Escape") return emit("drop");
  if (!e.altKey || !props.mayPull || (e.key !== "ArrowLeft" && e.key !== "ArrowRight")) return;
  e.preventDefault();
  emit("choose", bar.key);
  const days = (nudged.value.key === bar.key ? nudged.value.days : 0) + (e.key === "ArrowRight" ? 1 : -1);
  nudged.value = { key: bar.key, days };
  emit("pull", bar, days);
}
const nudged = ref({ key: "", days: 0 });
watch(
  () => props.tried,
  (tried) => {
    if (!tried) nudged.value = { key: "", days: 0 };
  },
);
const fuses = computed(() => props.booking.fuses);
</script>

<template>
  <div class="scroll" tabindex="0" :aria-label="s.calendar.title">
    <div class="names" :style="{ paddingTop: `${HEAD}px` }">
      <span v-for="c in names" :key="c" :style="{ height: `${ROW}px`, minHeight: 0 }">{{ c }}</span>
      <span v-for="f in fuses" :key="f.product" class="fuse-name" :style="{ minHeight: `${FUSE}px` }">{{
        f.product
      }}</span>
      <span>{{ s.calendar.night }}</span>
    </div>
    <svg
      :width="width"
      :height="height"
      :viewBox="`0 0 ${width} ${height}`"
      role="group"
      :aria-label="s.calendar.title"
    >
      <g v-for="(d, n) in days" :key="d">
        <line :x1="n * DAY_W" :x2="n * DAY_W" y1="0" :y2="height" class="rule" />
        <text :x="n * DAY_W + 8" y="18" class="day">{{ dated(d) }}</text>
        <text v-if="dayWeather(hours, d)" :x="n * DAY_W + 8" y="34" class="small">
          {{ s.calendar.air(dayWeather(hours, d)) }}
        </text>
      </g>
      <rect v-for="r in rain" :key="r.key" :x="r.x" :y="HEAD - 6 - r.h" :width="r.w" :height="r.h" class="rain" />
      <g
        v-for="b in bars"
        :key="b.key"
        tabindex="0"
        role="button"
        :aria-label="s.calendar.bar(booking.crews[b.crew] ?? '', b.place || s.site.walls, clock(b.from), clock(b.to))"
        :aria-pressed="chosen === b.key"
        :data-bar="b.place || 'walls'"
        @click="emit('choose', b.key)"
        @keydown.enter.prevent="emit('choose', b.key)"
        @keydown="nudge($event, b)"
        @pointerdown="grab($event, b)"
        @pointermove="haul"
        @pointerup="letGo"
        @pointercancel="letGo"
      >
        <rect
          :x="xOf(b.from, first)"
          :y="HEAD + rowOf(b) * ROW + 4"
          :width="Math.max(3, xOf(b.to, first) - xOf(b.from, first))"
          :height="ROW - 8"
          :class="['bar', b.trade, { now: chosen === b.key }]"
        />
        <text
          v-if="xOf(b.to, first) - xOf(b.from, first) > 7 + LETTER * labelOf(b).length"
          :x="xOf(b.from, first) + 4"
          :y="HEAD + rowOf(b) * ROW + ROW / 2 + 4"
          class="label"
        >
          {{ labelOf(b) }}
        </text>
      </g>
      <rect
        v-for="g in ghosts"
        :key="`g${g.key}`"
        :x="xOf(g.from, first)"
        :y="HEAD + rowOf(g) * ROW + 2"
        :width="Math.max(4, xOf(g.to, first) - xOf(g.from, first))"
        :height="ROW - 4"
        class="ghost"
        data-test="ghost"
      />
      <g v-for="(f, n) in fuses" :key="f.product" :data-fuse="f.product">
        <title>{{ s.calendar.fuse(f.product, dated(dayOf(f.limit) - 1)) }}</title>
        <line
          :x1="fuseX(f.from)"
          :x2="fuseX(Math.min(f.until, f.limit))"
          :y1="crewsEnd + 8 + FUSE * n + 11"
          :y2="crewsEnd + 8 + FUSE * n + 11"
          class="fuse"
        />
        <line
          v-if="f.over"
          :x1="fuseX(f.limit)"
          :x2="fuseX(f.until)"
          :y1="crewsEnd + 8 + FUSE * n + 11"
          :y2="crewsEnd + 8 + FUSE * n + 11"
          class="fuse out"
        />
        <text :x="fuseX(f.from) + 6" :y="crewsEnd + 8 + FUSE * n + 6" class="small">
          {{ s.calendar.coverBy(dated(dayOf(f.limit) - 1)) }}
        </text>
      </g>
      <rect
        v-for="c in covers"
        :key="`c${c.from}`"
        :x="xOf(c.from, first)"
        :y="HEAD + c.crew * ROW + 6"
        :width="Math.max(4, xOf(c.to, first) - xOf(c.from, first))"
        :height="ROW - 12"
        class="bar covering"
        data-test="covering"
      >
        <title>{{ s.calendar.covering(booking.crews[c.crew] ?? "", clock(c.from), clock(c.to)) }}</title>
      </rect>
      <line
        v-if="cursorX !== null"
        :x1="cursorX"
        :x2="cursorX"
        :y1="HEAD - 10"
        :y2="height"
        class="cursor"
        data-test="cursor"
      />
      <g v-for="(d, n) in days" :key="`e${d}`">
        <text v-if="night(d)" :x="n * DAY_W + DAY_W - 20" :y="height - 14" class="mark" :class="night(d)?.state">
          {{ marks[night(d)?.state ?? "dry"] }}
        </text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.scroll {
  display: flex;
  overflow-x: auto;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.names {
  position: sticky;
  left: 0;
  z-index: 1;
  flex: none;
  display: flex;
  flex-direction: column;
  min-width: 110px;
  padding: 0 10px;
  background: var(--sheet);
  border-right: 1px solid var(--line);
  font-weight: 650;
}
.names span {
  display: flex;
  align-items: center;
  min-height: 30px;
}
svg {
  flex: none;
}
.rule {
  stroke: var(--line);
}
.day {
  font-size: 13px;
  font-weight: 650;
  fill: var(--ink);
}
.small {
  font-size: 11.5px;
  fill: var(--ink-soft);
}
.rain {
  fill: var(--water);
  opacity: 0.55;
}
.bar {
  stroke: var(--ink);
  stroke-width: 1;
  fill: var(--f-barrier);
  cursor: pointer;
}
.bar.lead {
  fill: var(--sheet);
}
.bar.barrier {
  fill: var(--f-jamb);
}
.bar.window {
  fill: var(--water-soft);
}
.bar.cladding {
  fill: var(--f-shape);
}
.bar.covering {
  fill: var(--glue-soft);
  stroke: var(--glue);
}
.ghost {
  fill: none;
  stroke: var(--focus);
  stroke-width: 2;
  stroke-dasharray: 5 3;
  pointer-events: none;
}
.cursor {
  stroke: var(--focus);
  stroke-width: 2;
}
.fuse {
  stroke: var(--good);
  stroke-width: 3;
}
.fuse.out {
  stroke: var(--leak);
  stroke-width: 6;
}
.names .fuse-name {
  font-size: 0.75rem;
  font-weight: 400;
}
g[role="button"] {
  touch-action: none;
}
.bar.now {
  stroke: var(--focus);
  stroke-width: 3;
}
g[role="button"]:focus-visible .bar {
  stroke: var(--focus);
  stroke-width: 3;
}
.label {
  font-size: 12px;
  font-weight: 650;
  fill: var(--ink);
  pointer-events: none;
}
.mark {
  font-size: 15px;
  font-weight: 700;
  fill: var(--good);
}
.mark.cover,
.mark.tape {
  fill: var(--glue);
}
.mark.open,
.mark.bare {
  fill: var(--leak);
}
@media (max-width: 640px) {
  .scroll {
    display: none;
  }
}
</style>
