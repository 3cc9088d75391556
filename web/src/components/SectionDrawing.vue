<script setup lang="ts">
import SelectButton from "primevue/selectbutton";
import { useDebounceFn } from "@vueuse/core";
import { computed } from "vue";
import type { SectionKind } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";
import HatchPatterns from "./HatchPatterns.vue";

const job = useJob();
const kinds: { label: string; value: SectionKind }[] = [
  { label: s.section.sill, value: "sill" },
  { label: s.section.head, value: "head" },
  { label: s.section.jamb, value: "jamb" },
];
const section = computed(() => job.shown?.section ?? null);
const line = (points: number[][]) => points.map((p, i) => `${i ? "L" : "M"}${p[0]} ${p[1]}`).join("");
const corners = (points: number[][]) => points.map((p) => p.join(",")).join(" ");
const ask = useDebounceFn(() => void job.refresh(), 30);
function kind(value: SectionKind | null) {
  if (value) job.section = value;
  void job.refresh();
}
/** One letter for each sheet, at the middle of its longest line. */
const labels = computed(() =>
  (section.value?.bands ?? []).map((b) => {
    const at = b.line[Math.max(0, Math.floor((b.line.length - 1) / 2))] ?? [0, 0];
    const to = b.line[Math.min(b.line.length - 1, Math.floor((b.line.length - 1) / 2) + 1)] ?? at;
    return {
      letter: b.letter,
      x: ((at[0] ?? 0) + (to[0] ?? 0)) / 2,
      y: ((at[1] ?? 0) + (to[1] ?? 0)) / 2,
      name: b.name,
    };
  }),
);
</script>

<template>
  <section class="section" :aria-label="s.section.title" data-test="section">
    <header>
      <SelectButton
        :model-value="job.section"
        :options="kinds"
        option-label="label"
        option-value="value"
        size="small"
        :aria-label="s.section.title"
        @update:model-value="kind"
      />
      <label class="at">
        <span>{{ s.section.at }}</span>
        <input
          v-model.number="job.cutAt"
          type="range"
          min="0.02"
          max="0.98"
          step="0.01"
          :aria-valuetext="section?.at"
          @input="ask"
        />
        <span class="quiet">{{ section?.at }}</span>
      </label>
      <ul class="key">
        <li><i class="open" />{{ s.section.open }}</li>
        <li><i class="glued" />{{ s.section.glued }}</li>
        <li><i class="sealed" />{{ s.section.sealed }}</li>
        <li v-if="job.weather !== 'dry'"><i class="wet" />{{ s.section.wet }}</li>
      </ul>
    </header>
    <svg
      v-if="section"
      :viewBox="section.frame.join(' ')"
      role="img"
      :aria-label="`${s.section.title}: ${s.section[section.kind]}`"
    >
      <HatchPatterns />
      <polygon :points="corners(section.solid)" class="framing" />
      <g v-for="(g, i) in section.gaps" :key="`g${i}`">
        <line
          v-if="g.head !== null && g.head !== undefined"
          class="gap wet"
          :x1="g.line[0]?.[0]"
          :y1="g.line[0]?.[1]"
          :x2="g.line[1]?.[0]"
          :y2="g.line[1]?.[1]"
        >
          <title>{{ g.head }} in</title>
        </line>
        <line
          :class="['gap', g.state]"
          :x1="g.line[0]?.[0]"
          :y1="g.line[0]?.[1]"
          :x2="g.line[1]?.[0]"
          :y2="g.line[1]?.[1]"
        />
      </g>
      <g v-for="(b, i) in section.bands" :key="`b${i}`">
        <title>{{ b.name }}</title>
        <path :d="line(b.line)" class="edge" :stroke-width="b.thick" />
        <path
          :d="line(b.line)"
          class="band"
          :stroke="`url(#h-${b.role})`"
          :stroke-width="Math.max(0.1, b.thick - 0.1)"
        />
      </g>
      <text v-for="(l, i) in labels" :key="`l${i}`" :x="l.x" :y="l.y" font-size=".6">{{ l.letter }}</text>
      <text
        class="side"
        :x="(section.frame[0] ?? 0) + 3"
        :y="(section.frame[1] ?? 0) + (section.frame[3] ?? 0) - 0.8"
        font-size=".7"
      >
        {{ section.kind === "jamb" ? s.section.outside + " ↓" : "← " + s.section.outside }}
      </text>
    </svg>
    <p v-else class="none">{{ s.section.none }}</p>
  </section>
</template>

<style scoped>
.section {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
  background: var(--sheet);
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  padding: 6px 10px;
  border-bottom: 1px solid var(--line);
  font-size: 0.85rem;
}
.at {
  display: flex;
  gap: 6px;
  align-items: center;
}
.at input {
  accent-color: var(--shell);
}
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.key i {
  display: inline-block;
  width: 22px;
  height: 0;
  margin-right: 5px;
  vertical-align: middle;
  border-top: 3px solid transparent;
}
.key .open {
  height: 8px;
  border: 1px solid var(--ink-soft);
  border-width: 1px 0;
}
.key .glued {
  border-top: 3px solid var(--ink);
}
.key .sealed {
  border-top: 5px dotted var(--leak);
}
.key .wet {
  border-top: 6px solid var(--water);
}
svg {
  flex: 1;
  min-height: 0;
  width: 100%;
}
.framing {
  fill: var(--wall);
  stroke: var(--ink);
  stroke-width: 0.08;
}
.edge {
  fill: none;
  stroke: var(--ink);
  stroke-linejoin: round;
}
.band {
  fill: none;
  stroke-linejoin: round;
}
.gap {
  stroke-width: 0.13;
}
.gap.open {
  stroke: none;
}
.gap.glued {
  stroke: var(--ink);
}
.gap.cured {
  stroke: var(--ink);
}
.gap.sealed {
  stroke: var(--leak);
  stroke-width: 0.34;
  stroke-dasharray: 0.01 0.42;
  stroke-linecap: round;
}
.gap.wet {
  stroke: var(--water);
  stroke-width: 0.42;
}
text {
  text-anchor: middle;
  dominant-baseline: central;
  font-weight: 650;
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 0.3;
}
.side {
  font-weight: 400;
}
.none {
  margin: auto;
}
</style>
