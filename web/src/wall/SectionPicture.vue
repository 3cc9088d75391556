<script setup lang="ts">
import { computed } from "vue";
import type { Section } from "../api/client";
import { isLevel } from "../lib/sections";
import { s } from "../strings";

const props = defineProps<{
  section: Section;
}>();
const line = (points: number[][]) => points.map((p, i) => `${i ? "L" : "M"}${p[0]} ${p[1]}`).join("");
const corners = (points: number[][]) => points.map((p) => p.join(",")).join(" ");
/** One letter for each sheet, at the middle of its longest line. */
const labels = computed(() =>
  props.section.bands.map((b) => {
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
  <svg :viewBox="section.frame.join(' ')" role="img" :aria-label="`${s.section.title}: ${s.section[section.kind]}`">
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
      <path :d="line(b.line)" class="band" :stroke="`url(#h-${b.role})`" :stroke-width="Math.max(0.1, b.thick - 0.1)" />
    </g>
    <text v-for="(l, i) in labels" :key="`l${i}`" :x="l.x" :y="l.y" font-size=".6">{{ l.letter }}</text>
    <text
      class="side"
      :x="(section.frame[0] ?? 0) + 3"
      :y="(section.frame[1] ?? 0) + (section.frame[3] ?? 0) - 0.8"
      font-size=".7"
    >
      {{ isLevel(section.kind) ? s.section.outside + " ↓" : "← " + s.section.outside }}
    </text>
  </svg>
</template>

<style scoped>
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
</style>
