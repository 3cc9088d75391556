<script setup lang="ts">
import { computed } from "vue";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** The walls from above, as a key to the unfolded elevation: a wall chosen here is shown there. */
const props = defineProps<{ seen: [number, number] }>();
const emit = defineEmits<{ show: [along: [number, number]] }>();
const job = useJob();
const walls = computed(() => job.shown?.elevation.key ?? []);
const box = computed(() => {
  const xs = walls.value.flatMap((w) => [w.line[0] ?? 0, w.line[2] ?? 0]);
  const ys = walls.value.flatMap((w) => [w.line[1] ?? 0, w.line[3] ?? 0]);
  const [x, y] = [Math.min(...xs), Math.min(...ys)];
  const [w, h] = [Math.max(...xs) - x, Math.max(...ys) - y];
  const m = Math.max(w, h, 1) * 0.12;
  return { x: x - m, y: y - m, w: w + 2 * m, h: h + 2 * m };
});
const unit = computed(() => Math.max(box.value.w, box.value.h) / 100);
const isSeen = (along: number[]) =>
  (along[0] ?? 0) < props.seen[1] && (along[1] ?? 0) > props.seen[0] && walls.value.length > 1;
</script>

<template>
  <nav v-if="walls.length > 1" class="key" :aria-label="s.key.title" data-test="plan-key">
    <svg :viewBox="`${box.x} ${box.y} ${box.w} ${box.h}`">
      <g
        v-for="(w, i) in walls"
        :key="i"
        role="button"
        tabindex="0"
        :aria-label="s.key.go(w.name)"
        :class="{ seen: isSeen(w.along) }"
        :data-key-wall="i"
        @click="emit('show', [w.along[0] ?? 0, w.along[1] ?? 0])"
        @keydown.enter.stop.prevent="emit('show', [w.along[0] ?? 0, w.along[1] ?? 0])"
      >
        <title>{{ w.name }}</title>
        <line :x1="w.line[0]" :y1="w.line[1]" :x2="w.line[2]" :y2="w.line[3]" class="touch" :stroke-width="unit * 14" />
        <line :x1="w.line[0]" :y1="w.line[1]" :x2="w.line[2]" :y2="w.line[3]" class="line" :stroke-width="unit * 3" />
        <text
          :x="((w.line[0] ?? 0) + (w.line[2] ?? 0)) / 2"
          :y="((w.line[1] ?? 0) + (w.line[3] ?? 0)) / 2"
          :font-size="unit * 13"
        >
          {{ i + 1 }}
        </text>
      </g>
    </svg>
  </nav>
</template>

<style scoped>
.key {
  position: absolute;
  bottom: 12px;
  left: 12px;
  width: 116px;
  padding: 4px;
  background: color-mix(in srgb, var(--paper) 88%, transparent);
  border: 1px solid var(--line);
}
/* Above the buttons where these reach as far. */
@container (max-width: 600px) {
  .key {
    bottom: 56px;
  }
}
svg {
  display: block;
  width: 100%;
  max-height: 96px;
}
g[role="button"] {
  cursor: pointer;
}
.touch {
  stroke: transparent;
}
.line {
  stroke: var(--ink);
  stroke-linecap: square;
  opacity: 0.45;
}
.seen .line {
  opacity: 1;
}
text {
  fill: var(--ink);
  stroke: var(--paper);
  stroke-width: 0.4em;
  paint-order: stroke;
  text-anchor: middle;
  dominant-baseline: central;
}
.seen text {
  font-weight: 700;
}
</style>
