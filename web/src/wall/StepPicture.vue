<script setup lang="ts">
import { computed, useId } from "vue";
import { areas, lines } from "../lib/figures";
import type { OpeningView, StepPicture } from "../api/client";

/** What a step does, over what stands there already. */
const props = defineProps<{ picture: StepPicture }>();
const frame = computed(() => {
  const [x = 0, y = 0, width = 1, height = 1] = props.picture.frame;
  return { x, y, width, height };
});
/** Inches to a hundredth of the picture: lines and letters are the same size whatever is shown. */
const unit = computed(() => Math.max(frame.value.width, frame.value.height) / 100);
const letter = computed(() => unit.value * 5.4);
const id = useId();
/** Short strokes at the ends of a size, across its line. */
function ticks([a = 0, b = 0, c = 0, d = 0]: number[]) {
  const t = unit.value * 1.6;
  const upright = Math.abs(c - a) < Math.abs(d - b);
  return upright ? `M${a - t} ${b}H${a + t}M${c - t} ${d}H${c + t}` : `M${a} ${b - t}V${b + t}M${c} ${d - t}V${d + t}`;
}
/** Where a size is written: beyond its line, beside what is laid. */
const sizes = computed(() =>
  props.picture.sizes.map((size) => {
    const [a = 0, b = 0, c = 0, d = 0] = size.line;
    const width = size.text.length * letter.value * 0.52;
    const beside = width / 2 + unit.value * 2.5;
    const beyond = letter.value * 0.62 + unit.value * 1.5;
    const [x, y] = {
      left: [a - beside, b],
      right: [c + beside, d],
      above: [a, b - beyond],
      below: [c, d + beyond],
    }[size.past] as [number, number];
    return { ...size, x, y, width };
  }),
);
const unset = (o: OpeningView) => o.state === "covered";
</script>

<template>
  <svg
    class="step"
    :viewBox="`${frame.x} ${frame.y} ${frame.width} ${frame.height}`"
    role="img"
    :aria-label="picture.says"
    data-test="step-picture"
  >
    <defs>
      <marker :id="id" viewBox="0 0 6 6" refX="5" refY="3" markerWidth="5" markerHeight="5" orient="auto-start-reverse">
        <path d="M0 0 6 3 0 6Z" class="head" />
      </marker>
    </defs>
    <rect :x="frame.x" :y="frame.y" :width="frame.width" :height="frame.height" class="wall" />
    <rect
      v-for="o in picture.openings"
      :key="o.id"
      :x="o.rect[0]"
      :y="o.rect[1]"
      :width="o.rect[2]"
      :height="o.rect[3]"
      :class="o.state"
    />
    <g v-for="(shape, i) in picture.before" :key="`b${i}`" class="before">
      <path :d="areas(shape.parts)" :fill="`url(#h-${shape.role})`" />
      <path :d="lines(shape.edges)" class="edge" :stroke-width="unit * 0.35" />
    </g>
    <g v-for="(shape, i) in picture.now" :key="`n${i}`" :class="['now', { held: shape.held }]">
      <path :d="areas(shape.parts)" :fill="`url(#h-${shape.role})`" />
      <path :d="lines(shape.edges)" class="edge" :stroke-width="unit * 1.1" />
    </g>
    <g v-for="(shape, i) in picture.gone" :key="`g${i}`">
      <path
        :d="lines(shape.edges)"
        class="edge"
        :stroke-width="unit * 0.9"
        :stroke-dasharray="`${unit * 2} ${unit * 1.4}`"
      />
    </g>
    <template v-for="o in picture.openings" :key="`o${o.id}`">
      <rect
        :x="o.rect[0]"
        :y="o.rect[1]"
        :width="o.rect[2]"
        :height="o.rect[3]"
        class="opening"
        :stroke-width="unit * 0.7"
        :stroke-dasharray="unset(o) ? `${unit * 2.4} ${unit * 1.4}` : undefined"
      />
      <template v-if="o.glass">
        <rect
          :x="o.glass[0]"
          :y="o.glass[1]"
          :width="o.glass[2]"
          :height="o.glass[3]"
          class="glass"
          :stroke-width="unit * 0.6"
        />
        <path
          :d="`M${(o.glass[0] ?? 0) + (o.glass[2] ?? 0) * 0.3} ${(o.glass[1] ?? 0) + (o.glass[3] ?? 0) * 0.55}l${(o.glass[2] ?? 0) * 0.25} ${-(o.glass[3] ?? 0) * 0.25}`"
          class="opening"
          :stroke-width="unit * 0.4"
        />
      </template>
    </template>
    <polygon
      v-for="(part, i) in picture.beads"
      :key="`s${i}`"
      :points="part.map((c) => c.join(',')).join(' ')"
      class="bead"
      :stroke-width="unit * 1.2"
    />
    <path
      v-if="picture.cuts.length"
      :d="lines(picture.cuts)"
      class="cut"
      :stroke-width="unit * 1.1"
      :stroke-dasharray="`${unit * 3} ${unit * 1.2}`"
    />
    <line
      v-for="(w, i) in picture.ways"
      :key="`w${i}`"
      :x1="w[0]"
      :y1="w[1]"
      :x2="w[2]"
      :y2="w[3]"
      class="way"
      :stroke-width="unit * 1.2"
      :marker-end="`url(#${id})`"
    />
    <g v-for="(size, i) in sizes" :key="`z${i}`" class="size">
      <path :d="lines([size.line]) + ticks(size.line)" :stroke-width="unit * 0.7" />
      <rect
        :x="size.x - size.width / 2 - unit"
        :y="size.y - letter * 0.62"
        :width="size.width + 2 * unit"
        :height="letter * 1.24"
        :rx="unit"
      />
      <text :x="size.x" :y="size.y" :font-size="letter">{{ size.text }}</text>
    </g>
    <template v-for="(shape, i) in picture.now" :key="`l${i}`">
      <text v-if="shape.label" :x="shape.label[0]" :y="shape.label[1]" :font-size="letter * 1.15" class="letter">
        {{ shape.letter }}
      </text>
    </template>
  </svg>
</template>

<style scoped>
.step {
  display: block;
  width: 100%;
  max-height: 100%;
  overflow: hidden;
  background: var(--wall);
}
.wall {
  fill: var(--wall);
}
.open {
  fill: var(--open);
}
.covered,
.set {
  fill: none;
}
.before {
  opacity: 0.42;
}
.edge {
  fill: none;
  stroke: var(--ink);
}
.now.held path:first-child {
  opacity: 0.75;
}
.opening {
  fill: none;
  stroke: var(--ink);
}
.glass {
  fill: var(--f-unit);
  fill-opacity: 0.6;
  stroke: var(--ink);
}
.bead {
  fill: var(--glue);
  stroke: var(--glue);
  stroke-linejoin: round;
}
.cut {
  fill: none;
  stroke: var(--leak);
}
.way {
  stroke: var(--focus);
}
.head {
  fill: var(--focus);
}
.size path {
  fill: none;
  stroke: var(--focus);
}
.size rect {
  fill: var(--sheet);
}
text {
  text-anchor: middle;
  dominant-baseline: central;
  font-weight: 650;
  fill: var(--ink);
}
.size text {
  fill: var(--focus);
}
.letter {
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 0.35em;
  stroke-linejoin: round;
}
</style>
