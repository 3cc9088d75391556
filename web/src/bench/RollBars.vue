<script setup lang="ts">
import { computed } from "vue";
import type { Bar } from "../api/client";
import { s } from "../strings";

/** Rolls drawn to scale, each piece where it is cut; what is cut is hatched, what comes next is marked. */
const props = defineProps<{ bars: Bar[]; unit: string; next: string | null }>();
/** High enough to see; panels and wide sheets, on which pieces lie above each other, higher. */
const STRIP = 26;
const PANEL = 84;
/** Panels are drawn in their true shape, beside each other. */
const isPanel = (b: Bar) => b.length / b.width < 4;
const shape = (b: Bar) => (isPanel(b) ? { width: `${(PANEL * b.length) / b.width}px` } : {});
const high = (b: Bar) => (b.pieces.some((p) => p.low > 0) || isPanel(b) ? PANEL : STRIP);
const longest = computed(() => Math.max(1, ...props.bars.map((b) => b.length)));
</script>

<template>
  <div class="bars" :class="{ panels: bars.every(isPanel) }" data-test="bars">
    <div v-for="b in bars" :key="b.roll" class="bar" :style="shape(b)">
      <span class="quiet">{{ s.cut.drawn(unit, b.roll) }}</span>
      <svg
        :viewBox="`0 0 1000 ${high(b)}`"
        :style="{ height: `${high(b) + 2}px` }"
        preserveAspectRatio="none"
        role="img"
        :aria-label="s.cut.drawn(unit, b.roll)"
      >
        <rect class="rest" x="0" y="1" :width="(b.length / longest) * 1000" :height="high(b) - 2" />
        <g v-for="p in b.pieces" :key="p.id">
          <rect
            :class="{ piece: true, cut: p.cut, next: p.id === next }"
            :x="(p.from / longest) * 1000"
            :y="1 + (1 - Math.min(1, p.high / b.width)) * (high(b) - 2)"
            :width="((p.to - p.from) / longest) * 1000"
            :height="Math.min(1, (p.high - p.low) / b.width) * (high(b) - 2)"
            :data-bar-piece="p.id"
          >
            <title>{{ p.label }}</title>
          </rect>
        </g>
      </svg>
      <div class="labels" aria-hidden="true">
        <template v-for="p in b.pieces" :key="p.id">
          <span
            v-if="(p.to - p.from) / longest > (isPanel(b) ? 0.2 : 0.045)"
            :style="{
              left: `${(p.from / longest) * 100}%`,
              width: `${((p.to - p.from) / longest) * 100}%`,
              top: `${(1 - (p.low + p.high) / 2 / b.width) * 100}%`,
            }"
            >{{ p.label }}</span
          >
        </template>
      </div>
    </div>
  </div>
</template>

<style scoped>
.bar {
  position: relative;
  display: grid;
  grid-template-columns: 64px 1fr;
  align-items: center;
  margin: 3px 0;
}
.panels {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
}
.panels .bar {
  display: block;
}
.panels .labels {
  inset: auto 0 0;
  height: 86px;
}
svg {
  display: block;
  width: 100%;
}
.rest {
  fill: none;
  stroke: var(--ink-soft);
  stroke-width: 1;
  stroke-dasharray: 4 3;
  vector-effect: non-scaling-stroke;
}
.piece {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.2;
  vector-effect: non-scaling-stroke;
}
.piece.cut {
  fill: var(--line);
}
.piece.next {
  stroke-width: 3.5;
}
.labels {
  position: absolute;
  inset: 0 0 0 64px;
  pointer-events: none;
}
.labels span {
  position: absolute;
  overflow: hidden;
  font-size: 0.75rem;
  text-align: center;
  white-space: nowrap;
  transform: translateY(-50%);
}
@media (max-width: 760px) {
  /* Too narrow for letters: they stand in the list below. */
  .bars:not(.panels) .labels {
    display: none;
  }
}
</style>
