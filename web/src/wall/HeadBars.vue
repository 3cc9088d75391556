<script setup lang="ts">
import { computed } from "vue";
import { s } from "../strings";

/**
 * How much water a place takes, with the glue holding and once it is lost, as bars against what is asked. Where there is no way in, the bar is open
 * at its end.
 */
const props = defineProps<{
  holds: number | null;
  lost: number | null;
  /** What is asked with the glue holding and lost, in. */
  floors: number[];
  /** To which head water is followed, in. */
  followed: number;
}>();
/** Length of a bar as long as water is followed, and of its open end. */
const LONG = 120;
const END = 8;
const ROW = 13;
const bars = computed(() =>
  [props.holds, props.lost].map((head, i) => {
    const floor = props.floors[i] ?? 0;
    const along = (inches: number) => (Math.min(Math.max(inches, 0), props.followed) / props.followed) * LONG;
    return {
      glue: i === 0 ? s.verdict.holds : s.verdict.lost,
      kind: i === 0 ? "holds" : "lost",
      y: i * ROW,
      long: head === null ? LONG : Math.max(along(head), 1.5),
      open: head === null,
      floor: along(floor),
      under: head !== null && head < floor,
      said: head === null ? s.verdict.noWay : s.compare.head(head),
    };
  }),
);
const told = computed(() => bars.value.map((b) => `${b.glue}: ${b.said}`).join("; "));
</script>

<template>
  <span class="heads">
    <svg :viewBox="`0 -1 ${LONG + END} ${2 * ROW}`" role="img" :aria-label="told">
      <title>{{ told }}</title>
      <g v-for="b in bars" :key="b.kind" :class="[b.kind, { under: b.under }]">
        <rect class="track" x="0" :y="b.y" :width="LONG" height="10" />
        <rect class="bar" x="0" :y="b.y" :width="b.long" height="10" />
        <path v-if="b.open" class="bar" :d="`M${LONG} ${b.y}l${END} 5l-${END} 5z`" />
        <path class="floor" :d="`M${b.floor} ${b.y - 1}v12`" />
      </g>
    </svg>
    <span class="said" aria-hidden="true">
      <span v-for="b in bars" :key="b.kind" :class="[b.kind, { under: b.under }]">{{ b.said }}</span>
    </span>
  </span>
</template>

<style scoped>
.heads {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
svg {
  width: 128px;
  height: 26px;
  flex: none;
  overflow: visible;
}
.track {
  fill: none;
  stroke: var(--line);
}
.bar {
  fill: var(--water);
}
.lost .bar {
  fill: var(--water-soft);
  stroke: var(--water);
  stroke-dasharray: 3 2;
}
.under .bar {
  fill: var(--leak);
}
.lost.under .bar {
  fill: var(--glue-soft);
  stroke: var(--glue);
}
.floor {
  stroke: var(--ink);
  stroke-width: 2;
}
.said {
  display: grid;
  font-size: 0.78rem;
  line-height: 13px;
  white-space: nowrap;
}
.said .under {
  font-weight: 650;
  color: var(--leak);
}
.said .lost.under {
  color: var(--glue);
}
</style>
