<script setup lang="ts">
import { computed } from "vue";
import type { TestSays } from "../api/client";
import { s } from "../strings";

/** Moisture of the wood at a place, day by day, against what may be covered. */
const props = defineProps<{ drying: NonNullable<TestSays["drying"]> }>();
const [WIDE, HIGH, LEFT, FOOT] = [340, 150, 8, 22];
/** Room for the last number beside its point. */
const RIGHT = 72;
const days = computed(() => Math.max(1, ...props.drying.reads.map((r) => r.day)));
const most = computed(() => Math.max(props.drying.allowed, ...props.drying.reads.map((r) => r.most)) * 1.08);
const least = computed(() => Math.min(props.drying.allowed, ...props.drying.reads.map((r) => r.most)) * 0.9);
const x = (day: number) => LEFT + 8 + (day / days.value) * (WIDE - LEFT - RIGHT);
const y = (percent: number) => 8 + ((most.value - percent) / (most.value - least.value)) * (HIGH - FOOT - 16);
const way = computed(() => props.drying.reads.map((r) => `${x(r.day)},${y(r.most)}`).join(" "));
const last = computed(() => props.drying.reads.at(-1));
const dated = (at: string) => `${Number(at.slice(5, 7))}/${Number(at.slice(8, 10))}`;
</script>

<template>
  <figure class="drying" data-test="drying">
    <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="drying.says">
      <rect
        :x="LEFT"
        :y="y(drying.allowed)"
        :width="WIDE - LEFT"
        :height="HIGH - FOOT - y(drying.allowed)"
        class="dry"
      />
      <line :x1="LEFT" :x2="WIDE" :y1="y(drying.allowed)" :y2="y(drying.allowed)" class="allowed" />
      <text :x="LEFT + 6" :y="HIGH - FOOT - 6">{{ s.test.mayBeCovered(drying.allowed) }}</text>
      <line :x1="LEFT" :x2="LEFT" y1="4" :y2="HIGH - FOOT" class="axis" />
      <line :x1="LEFT" :x2="WIDE" :y1="HIGH - FOOT" :y2="HIGH - FOOT" class="axis" />
      <polyline :points="way" class="way" />
      <g v-for="(r, i) in drying.reads" :key="r.at + i">
        <circle :cx="x(r.day)" :cy="y(r.most)" r="5" class="read" data-test="moisture-read" />
        <text
          v-if="i === 0 || i === drying.reads.length - 1"
          :x="x(r.day)"
          :y="HIGH - 6"
          :text-anchor="i === 0 ? 'start' : 'end'"
        >
          {{ dated(r.at) }}
        </text>
      </g>
      <template v-if="last && drying.expected !== null && drying.expected !== undefined">
        <circle :cx="x(last.day)" :cy="y(drying.expected)" r="6" class="expected" />
      </template>
      <text v-if="last" :x="x(last.day) + 10" :y="y(last.most) + 5" class="now">{{ s.test.percent(last.most) }}</text>
    </svg>
    <figcaption>
      <b>{{ s.test.drying(drying.reads.length) }}.</b> {{ drying.says }}
    </figcaption>
  </figure>
</template>

<style scoped>
.drying {
  margin: 8px 0;
}
svg {
  width: 100%;
  max-width: 520px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
text {
  font-size: 13px;
  fill: var(--ink);
}
.now {
  font-weight: 700;
}
.dry {
  fill: var(--dry-soft, #dcebdc);
}
.allowed {
  stroke: var(--shell);
  stroke-width: 2;
  stroke-dasharray: 6 4;
}
.axis {
  stroke: var(--ink-soft);
}
.way {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}
.read {
  fill: var(--ink);
}
.expected {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  stroke-dasharray: 3 3;
}
figcaption {
  margin-top: 4px;
}
</style>
