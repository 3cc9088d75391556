<script setup lang="ts">
import { computed, ref } from "vue";
import type { OpeningView } from "../api/client";
import { hooked, onTape, pulled, type TapeEnd } from "../lib/tape";
import { s } from "../strings";

/** The rough opening and a tape: hooked at an edge and pulled, it reads what a tape reads there. */
const props = defineProps<{ opening: OpeningView }>();
const room = 9;
const rect = computed(() => {
  const [x = 0, y = 0, w = 1, h = 1] = props.opening.rect;
  return { x, y, w, h };
});
const frame = computed(() => {
  const { x, y, w, h } = rect.value;
  return [x - room, y - room, w + 2 * room, h + 2 * room];
});
const unit = computed(() => Math.max(frame.value[2] ?? 1, frame.value[3] ?? 1) / 100);
const svg = ref<SVGSVGElement | null>(null);
const from = ref<TapeEnd | null>(null);
const to = ref<TapeEnd | null>(null);
const pulling = ref(false);
function at(e: PointerEvent): TapeEnd | null {
  const matrix = svg.value?.getScreenCTM()?.inverse();
  if (!matrix) return null;
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
  return hooked(rect.value, [p.x, p.y]);
}
function hook(e: PointerEvent) {
  svg.value?.setPointerCapture(e.pointerId);
  [from.value, to.value, pulling.value] = [at(e), at(e), true];
}
function pull(e: PointerEvent) {
  if (!pulling.value || !from.value) return;
  const end = at(e);
  if (end) to.value = pulled(from.value, end);
}
/** By keys: from edge to edge. */
function whole(upright: boolean) {
  const { x, y, w, h } = rect.value;
  from.value = upright ? [x + w / 2, y + h] : [x, y + h / 2];
  to.value = upright ? [x + w / 2, y] : [x + w, y + h / 2];
}
const length = computed(() =>
  from.value && to.value ? Math.hypot(to.value[0] - from.value[0], to.value[1] - from.value[1]) : 0,
);
const upright = computed(() => !!from.value && !!to.value && from.value[0] === to.value[0]);
/** Inches along the tape, each with a stroke, every sixth a longer one. */
const strokes = computed(() => {
  const [a, b] = [from.value, to.value];
  if (!a || !b) return [];
  const n = Math.floor(length.value);
  return Array.from({ length: n }, (_, i) => {
    const part = (i + 1) / length.value;
    return { x: a[0] + (b[0] - a[0]) * part, y: a[1] + (b[1] - a[1]) * part, long: (i + 1) % 6 === 0 };
  });
});
</script>

<template>
  <div class="tape">
    <svg
      ref="svg"
      :viewBox="frame.join(' ')"
      role="img"
      :aria-label="s.practice.tape"
      data-test="tape"
      @pointerdown="hook"
      @pointermove="pull"
      @pointerup="pulling = false"
    >
      <rect :x="frame[0]" :y="frame[1]" :width="frame[2]" :height="frame[3]" class="wall" />
      <rect :x="rect.x" :y="rect.y" :width="rect.w" :height="rect.h" class="opening" :stroke-width="unit * 0.8" />
      <template v-if="from && to">
        <line :x1="from[0]" :y1="from[1]" :x2="to[0]" :y2="to[1]" class="blade" :stroke-width="unit * 5" />
        <path
          v-for="(t, i) in strokes"
          :key="i"
          class="stroke"
          :stroke-width="unit * 0.25"
          :d="
            upright
              ? `M${t.x - unit * 2.5} ${t.y}h${unit * (t.long ? 4 : 2)}`
              : `M${t.x} ${t.y + unit * 2.5}v${-unit * (t.long ? 4 : 2)}`
          "
        />
        <circle :cx="from[0]" :cy="from[1]" :r="unit * 1.6" class="hook" />
      </template>
    </svg>
    <p role="status" data-test="tape-reads">
      {{ length > 0 ? s.practice.reads(onTape(length)) : s.practice.tapeHelp }}
    </p>
    <div class="keys">
      <button type="button" data-test="tape-across" @click="whole(false)">{{ s.practice.across }}</button>
      <button type="button" data-test="tape-up" @click="whole(true)">{{ s.practice.up }}</button>
    </div>
  </div>
</template>

<style scoped>
.tape {
  max-width: 520px;
}
svg {
  display: block;
  width: 100%;
  max-height: 46vh;
  touch-action: none;
  cursor: crosshair;
  border: 1px solid var(--line);
}
.wall {
  fill: var(--wall);
}
.opening {
  fill: var(--open);
  stroke: var(--ink);
}
.blade {
  stroke: var(--tape);
}
.stroke {
  stroke: var(--ink);
}
.hook {
  fill: var(--ink);
}
p {
  margin: 6px 0;
  font-size: 1.15rem;
  font-weight: 650;
}
.keys {
  display: flex;
  gap: 8px;
}
.keys button {
  min-height: 44px;
  padding: 0 12px;
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
</style>
