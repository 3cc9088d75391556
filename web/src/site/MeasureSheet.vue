<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, type Check, type Fit, type Judgement, type OpeningView, type RecordEvent } from "../api/client";
import { asInches, fits, fitsAt, type Readings } from "../lib/site";
import { useJob } from "../stores/job";
import { s } from "../strings";
import KeyPad from "./KeyPad.vue";

/** The opening as a picture with its numbers at their places: one is typed after another, each is judged at once, and all of them together against the unit. */
const props = defineProps<{ checks: Check[]; opening: OpeningView; known: Readings; title: string }>();
const emit = defineEmits<{ keep: [what: RecordEvent["what"][]]; close: [] }>();
const job = useJob();
const pad = ref<InstanceType<typeof KeyPad> | null>(null);
/** Every place in the order in which it is measured. */
const goodAt = (c: Check, i: number) =>
  fitsAt(
    c,
    valuesOf(c).map((v) => (v === undefined ? undefined : Number(v))),
    i,
  );
const spots = computed(() =>
  props.checks.flatMap((c) => c.spots.map((spot, i) => ({ check: c, spot, i, key: `${c.id} ${i}` }))),
);
const typed = ref(new Map<string, string>());
const at = ref(0);
const here = computed(() => spots.value[at.value]);
/** What is known of a check: typed now, else as it was read before. */
const valueAt = (c: Check, i: number) => typed.value.get(`${c.id} ${i}`) ?? props.known.get(c.id)?.[i];
const valuesOf = (c: Check) => c.spots.map((_, i) => valueAt(c, i));
const isNew = (c: Check) => c.spots.some((_, i) => typed.value.has(`${c.id} ${i}`));
const complete = (c: Check) => valuesOf(c).every((v) => v !== undefined);
const goods = computed(() => {
  const map = new Map<string, boolean | null>();
  for (const c of props.checks) {
    const values = valuesOf(c).flatMap((v) => (v === undefined ? [] : [Number(v)]));
    map.set(c.id, values.length === 0 ? null : fits(c, values));
  }
  return map;
});
function take(value: string | null) {
  const spot = here.value;
  if (!spot) return;
  const next = new Map(typed.value);
  if (value === null) next.delete(spot.key);
  else next.set(spot.key, value);
  typed.value = next;
}
function choose(n: number) {
  at.value = n;
  pad.value?.wipe();
}
/** To the next place that was not measured. */
function next() {
  const rest = spots.value.findIndex((x, n) => n > at.value && valueAt(x.check, x.i) === undefined);
  choose(rest >= 0 ? rest : Math.min(at.value + 1, spots.value.length - 1));
}
/** What the core says of the check in hand, and of the opening against its unit. Without a signal the bounds alone speak. */
const judged = ref<Judgement | null>(null);
const fit = ref<Fit | null>(null);
watch(
  [typed, at],
  async () => {
    judged.value = null;
    const id = job.state?.id;
    const spot = here.value;
    if (id === undefined || !spot) return;
    const asked = typed.value;
    const params = { path: { id } };
    const c = spot.check;
    const upTo = valuesOf(c).flatMap((v) => (v === undefined ? [] : [Number(v)]));
    // Judged by place: a reading after one that is missing would be taken for it.
    const inOrder = valuesOf(c).findIndex((v) => v === undefined);
    const values = inOrder < 0 ? upTo : valuesOf(c).slice(0, inOrder).map(Number);
    const readings = Object.fromEntries(
      props.checks.filter((x) => x.reads && complete(x)).map((x) => [x.id, valuesOf(x).map(Number)]),
    );
    for (const [check, v] of props.known) readings[check] ??= v.map(Number).filter((n) => !Number.isNaN(n));
    const [one, all] = await Promise.all([
      values.length ? api.POST("/api/jobs/{id}/judge", { params, body: { check: c.id, values } }) : null,
      api.POST("/api/jobs/{id}/fit", { params, body: { opening: props.opening.id, readings } }),
    ]).catch(() => [null, null] as const);
    if (asked !== typed.value) return;
    judged.value = one?.data ?? null;
    fit.value = all?.data ?? null;
  },
  { immediate: true },
);
const says = computed(() => {
  const spot = here.value;
  if (!spot || valueAt(spot.check, spot.i) === undefined) return "";
  if (judged.value) return judged.value.says;
  const good = goods.value.get(spot.check.id);
  if (good === false)
    return [s.site.offBy(spot.check.asked), spot.spot.above || spot.check.above].join(" ").replace(/\{\w+\}/g, "…");
  return good === true ? s.site.fine : "";
});
function keep() {
  const news = props.checks.filter((c) => isNew(c));
  emit(
    "keep",
    news.map((c) => {
      const values = valuesOf(c).flatMap((v) => (v === undefined ? [] : [v]));
      const { id: check, unit, asked } = c;
      return { is: "reading", check, values, unit, instrument: "", asked, good: goods.value.get(c.id) ?? null };
    }),
  );
}

/** The picture: the opening in its true shape, with room for numbers beside it. */
const SIDE = 100;
const box = computed(() => {
  const [, , w = 1, h = 1] = props.opening.rect;
  const by = SIDE / Math.max(w, h);
  return { w: w * by, h: h * by, real: h };
});
const frame = computed(() => `-30 -14 ${box.value.w + 60} ${box.value.h + 28}`);
const place = ([x1 = 0, y1 = 0, x2 = 0, y2 = 0]: number[]) => ({
  x1: x1 * box.value.w,
  y1: (1 - y1) * box.value.h,
  x2: x2 * box.value.w,
  y2: (1 - y2) * box.value.h,
});
/** Where a number stands on its line: of lines that cross in the middle each has its own place. */
function numberAt(line: number[], n: number) {
  const p = place(line);
  const share = [0.5, 0.28, 0.72, 0.38, 0.62][n % 5] ?? 0.5;
  const slanting = p.x1 !== p.x2 && p.y1 !== p.y2;
  const t = slanting ? 0.22 : Math.abs(p.x1 - p.x2) < Math.abs(p.y1 - p.y2) ? share : 0.5;
  return { x: p.x1 + (p.x2 - p.x1) * t, y: p.y1 + (p.y2 - p.y1) * t };
}
const marks = computed(() =>
  spots.value.map((x, n) => {
    const value = valueAt(x.check, x.i);
    const text =
      value === undefined ? "·" : x.check.quantity === "length" ? asInches(value) : `${value}${x.check.unit}`;
    return {
      ...x,
      n,
      ...place(x.spot.line),
      at: numberAt(x.spot.line, n),
      text,
      good: goodAt(x.check, x.i),
      wide: Math.max(9, text.length * 4.6 + 3),
    };
  }),
);
const shims = computed(() =>
  (fit.value?.shims ?? []).map((shim) => ({
    ...shim,
    x: shim.right ? box.value.w : 0,
    y: box.value.h * (1 - Math.min(1, shim.at / box.value.real)),
  })),
);
const showShims = ref(false);
</script>

<template>
  <section class="site-sheet" role="dialog" :aria-label="title" data-test="measure">
    <header>
      <h2>{{ title }}</h2>
      <button class="plain" :aria-label="s.site.cancel" @click="emit('close')">✕</button>
    </header>
    <svg :viewBox="frame" class="opening" role="img" :aria-label="s.site.measurePicture(opening.name)">
      <rect x="0" y="0" :width="box.w" :height="box.h" class="hole" />
      <template v-if="showShims">
        <g v-for="(x, i) in shims" :key="`s${i}`" data-test="shim">
          <rect :x="x.right ? x.x - 4 : x.x" :y="x.y - 2" width="4" height="4" class="shim" />
          <text
            :x="x.right ? x.x + 3 : x.x - 3"
            :y="x.y + 2"
            :text-anchor="x.right ? 'start' : 'end'"
            class="shim-text"
          >
            {{ x.at_text }}{{ x.thick_text ? `: ${x.thick_text}` : "" }}
          </text>
        </g>
      </template>
      <template v-else>
        <line
          v-for="m in marks"
          :key="m.key"
          :x1="m.x1"
          :y1="m.y1"
          :x2="m.x2"
          :y2="m.y2"
          class="line"
          :class="{ now: m.n === at }"
        />
        <g
          v-for="m in marks"
          :key="`n${m.key}`"
          :class="{ now: m.n === at, good: m.good === true, bad: m.good === false }"
        >
          <rect :x="m.at.x - m.wide / 2" :y="m.at.y - 5" :width="m.wide" height="10" rx="1.5" class="box" />
          <text :x="m.at.x" :y="m.at.y + 2.8" text-anchor="middle" class="number">{{ m.text }}</text>
        </g>
      </template>
    </svg>
    <p v-if="fit?.says.length" class="says" :class="fit.fits === 'fits' ? 'good' : 'bad'" data-test="fit">
      {{ fit.says.join(" ") }}
    </p>
    <div class="chips">
      <button
        v-for="(x, n) in spots"
        :key="x.key"
        :class="{ on: n === at }"
        :aria-current="n === at"
        :data-spot="`${x.check.check} ${x.i}`"
        @click="choose(n)"
      >
        {{ valueAt(x.check, x.i) === undefined ? n + 1 : goodAt(x.check, x.i) === false ? "✕" : "✓" }}
      </button>
      <button
        v-if="shims.length"
        :aria-pressed="showShims"
        :class="{ on: showShims }"
        data-test="shims"
        @click="showShims = !showShims"
      >
        {{ s.site.shims }}
      </button>
    </div>
    <p v-if="here" data-test="spot">
      <b>{{ here.check.name }}, {{ here.spot.name }}</b> {{ here.check.asked }}
    </p>
    <p
      class="says"
      :class="{ good: here && goods.get(here.check.id) === true, bad: here && goods.get(here.check.id) === false }"
      role="status"
      data-test="says"
    >
      {{ says }}
    </p>
    <KeyPad ref="pad" :inches="here?.check.quantity === 'length'" @typed="take" @back="take(null)" />
    <div class="two">
      <button
        class="keep"
        :disabled="!here || valueAt(here.check, here.i) === undefined"
        data-test="next-reading"
        @click="next"
      >
        {{ s.site.next }}
      </button>
      <button class="keep" :disabled="typed.size === 0" data-test="keep" @click="keep">{{ s.site.keep }}</button>
    </div>
  </section>
</template>

<style scoped>
.opening {
  flex: none;
  width: 100%;
  height: 168px;
  background: var(--wall);
}
.hole {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.4;
}
.line {
  opacity: 0.55;
  stroke: var(--ink-soft);
  stroke-width: 0.5;
  stroke-dasharray: 2 1.5;
}
.line.now {
  opacity: 1;
  stroke: var(--focus);
  stroke-width: 1.4;
  stroke-dasharray: none;
}
.box {
  fill: var(--sheet);
  stroke: var(--ink-soft);
  stroke-width: 0.5;
}
.now .box {
  stroke: var(--focus);
  stroke-width: 1.2;
}
.good .box {
  fill: var(--good-soft);
}
.bad .box {
  fill: var(--leak-soft);
}
.number {
  font-size: 7.5px;
  font-weight: 700;
  fill: var(--ink);
}
.shim {
  fill: var(--f-shape);
  stroke: var(--ink);
  stroke-width: 0.6;
}
.shim-text {
  font-size: 6px;
  font-weight: 650;
  fill: var(--ink);
}
.chips {
  display: flex;
  flex: none;
  gap: 4px;
  overflow-x: auto;
}
.chips button {
  min-width: 44px;
  min-height: 44px;
  padding: 0 6px;
  font-size: 1rem;
}
</style>
