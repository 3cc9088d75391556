<script setup lang="ts">
import { useElementSize, useTimeoutFn } from "@vueuse/core";
import { computed, ref, shallowRef, watch } from "vue";
import { api, sentence, type Booking, type WallView } from "../api/client";
import { scaleOfRows } from "../lib/building";
import { FROM_H, TO_H, clock, dateOf, dayOf } from "../lib/calendar";
import { points } from "../lib/figures";
import { Refusal, newest } from "../lib/requests";
import { stacked } from "../lib/stacked";
import { MARKS, kindOf } from "../lib/verdict";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** The walls as they stand at an hour of the calendar, dry or in rain. */
const props = defineProps<{ booking: Booking; days: number[]; weather: string | null; anew: boolean }>();
const minute = defineModel<number | null>({ required: true });
const job = useJob();
/** Every hour of the days that are drawn: nights are passed over. */
const hours = computed(() =>
  props.days.flatMap((d) => Array.from({ length: TO_H - FROM_H + 1 }, (_, h) => d * 1440 + (FROM_H + h) * 60)),
);
const at = computed({
  get: () => Math.max(0, minute.value === null ? 0 : hours.value.findIndex((h) => h >= (minute.value ?? 0))),
  set: (n: number) => (minute.value = hours.value[n] ?? null),
});
const said = computed(() => {
  const m = hours.value[at.value] ?? 0;
  return `${dateOf(props.booking.from, dayOf(m))}, ${clock(m)}`;
});
const rain = ref(false);
const view = shallowRef<WallView | null>(null);
const wrong = ref("");
/** While the hour is pulled only the last one asked for is answered. */
const PAUSE_MS = 60;
async function ask() {
  const id = job.state?.id;
  if (id === undefined || minute.value === null) return;
  const body = { minute: minute.value, rain: rain.value, anew: props.anew, weather: props.weather };
  try {
    const found = await newest("calendar hour", (signal) =>
      api.POST("/api/jobs/{id}/calendar/hour", { params: { path: { id } }, body, signal }),
    );
    if (found) [view.value, wrong.value] = [found, ""];
  } catch (e) {
    wrong.value = e instanceof Refusal ? e.message : sentence(e, s.calendar.silent);
  }
}
const soon = useTimeoutFn(() => void ask(), PAUSE_MS, { immediate: false });
watch([minute, rain, () => props.booking], () => soon.start(), { immediate: true });

const elevation = computed(() => view.value?.elevation ?? null);
const walls = computed(() => {
  const e = elevation.value;
  if (!e) return [];
  return e.key.map((k) => {
    const [from, to] = [k.along[0] ?? 0, k.along[1] ?? e.width];
    const over = (r: number[]) => (r[0] ?? 0) < to && (r[0] ?? 0) + (r[2] ?? 0) > from;
    return {
      name: k.name,
      from,
      length: Math.max(1, to - from),
      shapes: e.shapes.filter((x) => spans(x.parts, from, to)),
      openings: e.openings.filter((o) => over(o.rect)),
      wet: e.marks.filter((m) => spans([m.part], from, to)),
    };
  });
});
/** True where some part of a piece lies between two places. */
function spans(parts: number[][][], from: number, to: number) {
  return parts.some((p) => {
    const xs = p.map((c) => c[0] ?? 0);
    return Math.min(...xs) < to && Math.max(...xs) > from;
  });
}
const frame = ref<HTMLElement | null>(null);
const { width } = useElementSize(frame);
const HIGH = 320;
const NAME = 26;
const scale = computed(() => {
  const tall = elevation.value?.height ?? 1;
  const sizes = walls.value.map((w) => ({ length: w.length, height: tall }));
  return scaleOfRows(
    sizes,
    { width: Math.max(120, width.value - 8), height: HIGH },
    { across: 12, down: NAME, least: 80 },
  );
});
/** Thinner than this nothing is drawn, in points. */
const THIN = 0.7;
const faces = computed(() => walls.value.map((w) => ({ ...w, sheets: stacked(w.shapes, THIN / scale.value) })));
const verdict = computed(() => view.value?.verdict ?? null);
</script>

<template>
  <section class="hour" data-test="hour">
    <div class="bar no-print">
      <label for="hour-of-day">{{ s.calendar.hour }}</label>
      <input
        id="hour-of-day"
        v-model.number="at"
        type="range"
        min="0"
        :max="Math.max(0, hours.length - 1)"
        step="1"
        :aria-valuetext="said"
        data-test="hour-range"
      />
      <output for="hour-of-day" data-test="hour-said">{{ said }}</output>
      <label class="wet"
        ><input v-model="rain" type="checkbox" data-test="hour-rain" /> {{ s.calendar.rainOnIt }}</label
      >
    </div>
    <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    <p v-if="view && verdict" class="stands" role="status" data-test="hour-stands">
      {{ s.calendar.stepsDone(view.done, view.total) }}
      <b v-if="rain" :class="kindOf(verdict.state)">{{ MARKS[verdict.state] }} {{ verdict.says }}</b>
    </p>
    <div ref="frame" class="walls">
      <figure v-for="w in faces" :key="w.from" :style="{ width: `${Math.max(80, w.length * scale)}px` }">
        <figcaption v-if="walls.length > 1">{{ w.name }}</figcaption>
        <svg
          :viewBox="`${w.from} 0 ${w.length} ${elevation?.height ?? 1}`"
          :style="{ width: `${w.length * scale}px`, height: `${(elevation?.height ?? 1) * scale}px` }"
          role="img"
          :aria-label="s.calendar.wallAt(w.name, said)"
        >
          <rect class="sheathing" :x="w.from" y="0" :width="w.length" :height="elevation?.height" />
          <rect
            v-for="o in w.openings"
            :key="o.id"
            :x="o.rect[0]"
            :y="o.rect[1]"
            :width="o.rect[2]"
            :height="o.rect[3]"
            class="hole"
          />
          <g v-for="(x, i) in w.sheets" :key="i" data-hour-sheet>
            <path :d="x.areas" :fill="`url(#h-${x.role})`" :opacity="x.held ? 0.55 : 1" />
            <path :d="x.edges" class="edge" :stroke-width="1.1 / scale" />
          </g>
          <g v-for="o in w.openings" :key="`g${o.id}`">
            <rect
              v-if="o.glass"
              :x="o.glass[0]"
              :y="o.glass[1]"
              :width="o.glass[2]"
              :height="o.glass[3]"
              class="glass"
              :stroke-width="1.6 / scale"
            />
            <text
              v-if="o.feature === 'opening' && (o.rect[2] ?? 0) * scale > 26"
              :x="(o.rect[0] ?? 0) + (o.rect[2] ?? 0) / 2"
              :y="(o.rect[1] ?? 0) + (o.rect[3] ?? 0) / 2"
              :font-size="12 / scale"
              :class="{ light: o.state === 'open' }"
            >
              {{ o.id }}
            </text>
          </g>
          <polygon
            v-for="(m, i) in w.wet"
            :key="`m${i}`"
            :points="points(m.part)"
            :fill="m.level === 0 ? 'url(#h-wet)' : 'url(#h-wet-low)'"
            data-test="hour-wet"
          />
        </svg>
      </figure>
    </div>
  </section>
</template>

<style scoped>
.hour {
  margin: 8px 0;
  padding: 8px 14px 12px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
.bar input[type="range"] {
  flex: 1 1 240px;
  min-height: 44px;
  accent-color: var(--shell);
}
.bar output {
  min-width: 11em;
  font-weight: 650;
}
.wet {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  min-height: 44px;
}
.stands {
  margin: 4px 0;
}
.stands b {
  margin-left: 10px;
}
.walls {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}
figure {
  margin: 0;
}
figcaption {
  overflow: hidden;
  font-weight: 650;
  white-space: nowrap;
  text-overflow: ellipsis;
}
svg {
  display: block;
}
.sheathing {
  fill: var(--paper);
  stroke: var(--ink);
  vector-effect: non-scaling-stroke;
}
.hole {
  fill: var(--open);
}
.edge {
  fill: none;
  stroke: var(--ink);
}
.glass {
  fill: var(--f-unit);
  stroke: var(--ink);
  opacity: 0.82;
}
/* Read on whatever lies behind it. */
text {
  fill: var(--ink);
  text-anchor: middle;
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 2px;
  vector-effect: non-scaling-stroke;
}
text.light {
  fill: var(--sheet);
  stroke: var(--open);
}
.wrong {
  margin: 6px 0;
  padding: 6px 10px;
  background: var(--leak-soft);
  border-left: 4px solid var(--leak);
}
</style>
