<script setup lang="ts">
import { computed } from "vue";
import SizeText from "../fields/SizeText.vue";
import type { Section } from "../api/client";
import { isLevel } from "../lib/sections";
import { s } from "../strings";

/** A section as it is built; a piece or its mark leads to its step. */
const props = defineProps<{
  section: Section;
  chosen?: string | null;
  bare?: boolean;
  /** Drawn without names and marks, as large as it fits: small, beside others of its kind. */
  small?: boolean;
  /** Pieces that stand out; where it is said which, pieces are touched and not steps. */
  marked?: string[];
}>();
const emit = defineEmits<{ step: [id: string]; piece: [id: string] }>();
const built = computed(() => props.section.built);
const line = (points: number[][]) => points.map((p, i) => `${i ? "L" : "M"}${p[0]} ${p[1]}`).join("");
const closed = (points: number[][]) => line(points) + (points.length > 2 ? "Z" : "");
const on = (step?: string | null) => !!step && step === props.chosen;
/** Numbers of parts and letters of pieces, each named once. */
const names = computed(() => {
  const all = built.value?.marks ?? [];
  const one = [...new Map(all.map((m) => [m.text + m.name, m])).values()];
  return [...one].sort((a, b) => Number(/^\d/.test(a.text)) - Number(/^\d/.test(b.text)));
});
function go(step?: string | null) {
  if (step) emit("step", step);
}
const middle = (l: number[][]) => [
  ((l[0]?.[0] ?? 0) + (l[1]?.[0] ?? 0)) / 2,
  ((l[0]?.[1] ?? 0) + (l[1]?.[1] ?? 0)) / 2,
];
/** What is drawn: with room for marks, or where there are none the parts alone. */
const frame = computed(() => {
  if (!props.small || !built.value) return built.value?.frame ?? [];
  const all = [...built.value.shapes.map((x) => x.outline), ...built.value.runs.map((x) => x.line)].flat();
  const [xs, ys] = [all.map((c) => c[0] ?? 0), all.map((c) => c[1] ?? 0)];
  const [x, y] = [Math.min(...xs), Math.min(...ys)];
  return [x - 0.2, y, Math.max(...xs) - x + 0.4, Math.max(...ys) - y];
});
const flat = computed(() => isLevel(props.section.kind));
</script>

<template>
  <div v-if="built" :class="['built', { bare }]" data-test="built">
    <svg :viewBox="frame.join(' ')" role="img" :aria-label="`${s.section.title}: ${s.section[section.kind]}`">
      <g v-for="(p, i) in built.shapes" :key="`s${i}`" :class="{ on: on(p.step), goes: p.step }" @click="go(p.step)">
        <title>{{ p.name }}</title>
        <path :d="closed(p.outline)" :class="['shape', p.of]" />
        <path
          v-if="['framing', 'batt', 'concrete', 'cladding', 'boards'].includes(p.of)"
          :d="closed(p.outline)"
          :style="{ fill: `url(#m-${p.of})` }"
          class="hatch"
        />
      </g>
      <g v-for="(g, i) in built.gaps" :key="`g${i}`">
        <path v-if="g.head !== null && g.head !== undefined" class="gap wet" :d="line(g.line)">
          <title>{{ g.head }} in</title>
        </path>
        <path v-if="g.state === 'sealed'" class="gap sealed" :d="line(g.line)" />
      </g>
      <g
        v-for="(r, i) in built.runs"
        :key="`r${i}`"
        :class="['run', { on: on(r.step) || marked?.includes(r.piece) }]"
        :data-piece="r.piece"
        @click="marked ? emit('piece', r.piece) : go(r.step)"
      >
        <title>{{ r.name }}</title>
        <path :d="line(r.line)" class="edge" :stroke-width="r.thick" />
        <path :d="line(r.line)" :class="['fill', r.role]" :stroke-width="Math.max(0.06, r.thick - 0.07)" />
      </g>
      <g v-for="(z, i) in small ? [] : built.sizes" :key="`z${i}`" class="size">
        <title>{{ z.what }}</title>
        <path :d="line(z.line)" />
        <text :x="middle(z.line)[0]" :y="middle(z.line)[1]" font-size=".55"><SizeText drawn :text="z.text" /></text>
      </g>
      <g
        v-for="(m, i) in small ? [] : built.marks"
        :key="`m${i}`"
        :class="['mark', { on: on(m.step), goes: m.step }]"
        @click="go(m.step)"
      >
        <title>{{ m.name }}</title>
        <path :d="line(m.leader)" class="leader" />
        <circle :cx="m.leader[0]?.[0]" :cy="m.leader[0]?.[1]" r=".09" class="dot" />
        <circle :cx="m.leader[2]?.[0]" :cy="m.leader[2]?.[1]" r=".52" class="disc" />
        <text :x="m.leader[2]?.[0]" :y="m.leader[2]?.[1]" font-size=".62">{{ m.text }}</text>
      </g>
      <text
        v-if="!small"
        class="side"
        :x="(built.frame[0] ?? 0) + 0.4"
        :y="(built.frame[1] ?? 0) + (built.frame[3] ?? 0) - (flat ? 0.32 : 0.6)"
        font-size=".6"
      >
        {{ flat ? "↓ " + s.section.outside : "← " + s.section.outside }}
      </text>
    </svg>
    <div v-if="!small" class="names">
      <ul>
        <li v-for="m in names" :key="m.text + m.name">
          <button v-if="m.step" :class="{ on: on(m.step) }" @click="go(m.step)">
            <b>{{ m.text }}</b> {{ m.name }}
          </button>
          <span v-else
            ><b>{{ m.text }}</b> {{ m.name }}</span
          >
        </li>
      </ul>
      <p v-if="built.sizes.length && !bare" class="quiet">
        <span v-for="(z, i) in built.sizes" :key="i"
          >{{ z.text }} {{ z.what }}{{ i + 1 < built.sizes.length ? "; " : "" }}</span
        >
      </p>
      <p v-if="!bare" class="quiet">{{ built.thickened }}</p>
    </div>
  </div>
</template>

<style scoped>
.built {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
svg {
  flex: 1;
  width: 100%;
  min-height: 220px;
}
.names {
  max-height: 34%;
  overflow: auto;
  padding: 6px 12px 10px;
  font-size: 0.82rem;
  border-top: 1px solid var(--line);
}
.bare svg {
  flex: none;
  height: 200px;
  min-height: 0;
}
.bare .names {
  max-height: none;
  padding: 4px 6px;
  font-size: 0.7rem;
  overflow: visible;
}
.bare ul {
  columns: 2 90px;
}
ul {
  margin: 0;
  padding: 0;
  columns: 150px;
  column-gap: 10px;
  list-style: none;
}
li {
  break-inside: avoid;
}
li b {
  display: inline-block;
  min-width: 1.7em;
}
li button,
li span {
  display: block;
  width: 100%;
  padding: 1px 4px;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
}
li button {
  cursor: pointer;
}
li button:hover,
li button.on {
  background: var(--good-soft);
}
.goes,
.run {
  cursor: pointer;
}
.shape {
  stroke: var(--ink);
  stroke-width: 0.045;
  stroke-linejoin: round;
  fill: var(--sheet);
}
.hatch {
  stroke: none;
  pointer-events: none;
}
.framing {
  fill: #eadcc0;
}
.stud {
  fill: #f3ead6;
  stroke-dasharray: 0.3 0.2;
}
.sheathing {
  fill: #dcc69b;
}
.concrete {
  fill: #d6d4cf;
}
.batt {
  fill: #fbe8ea;
}
.boards {
  fill: #f6e3b5;
}
.lining {
  fill: #eeeae2;
}
.wood {
  fill: #e3cfa4;
}
.furring {
  fill: #e5d3ac;
}
.cladding {
  fill: #cfd8cf;
}
.frame {
  fill: #f4f4f1;
}
.thing {
  fill: #d9dde0;
}
.ground {
  fill: #cbb994;
}
.glass {
  fill: #bcd9e4;
}
.shim {
  fill: #b98f55;
}
.rod {
  fill: #cfcfcf;
}
.sealant {
  fill: #5b5b5b;
}
.fastener {
  fill: none;
  stroke-width: 0.11;
}
.edge {
  fill: none;
  stroke: var(--ink);
  stroke-linejoin: round;
}
.fill {
  fill: none;
  stroke: var(--f-barrier);
  stroke-linejoin: round;
}
.fill.pan {
  stroke: var(--f-pan);
}
.fill.jamb,
.fill.lining {
  stroke: var(--f-jamb);
}
.fill.head,
.fill.cap {
  stroke: var(--f-head);
}
.fill.patch,
.fill.joint {
  stroke: var(--f-patch);
}
.fill.cover {
  stroke: var(--f-shape);
}
.fill.unit {
  stroke: var(--f-unit);
}
.on .edge,
.on .shape {
  stroke: var(--leak);
}
.on .fill {
  stroke: #ffd98a;
}
.gap {
  fill: none;
}
.gap.sealed {
  stroke: var(--leak);
  stroke-width: 0.14;
  stroke-dasharray: 0.01 0.22;
  stroke-linecap: round;
}
.gap.wet {
  stroke: var(--water);
  stroke-width: 0.2;
}
.leader {
  fill: none;
  stroke: var(--ink);
  stroke-width: 0.03;
}
.dot {
  fill: var(--ink);
}
.disc {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 0.05;
}
.mark.on .disc {
  fill: #ffd98a;
}
text {
  text-anchor: middle;
  dominant-baseline: central;
  font-weight: 650;
  fill: var(--ink);
}
.size path {
  stroke: var(--ink-soft);
  stroke-width: 0.05;
}
.size text {
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 0.2;
  font-weight: 500;
}
.side {
  text-anchor: start;
  font-weight: 400;
}
.kame-dark .built svg {
  background: #efe9dc;
  --ink: #1c2b26;
  --sheet: #fffdf6;
}
</style>
