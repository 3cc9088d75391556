<script setup lang="ts">
import { computed, ref } from "vue";
import type { SeenWater, TestPicture } from "../api/client";
import { moved, onDrawing, spotAt } from "../lib/seen";
import { s } from "../strings";
import WallShapes from "../wall/WallShapes.vue";
import HatchPatterns from "../wall/HatchPatterns.vue";

/** The place as it stands today, with where water should come out; what is touched is where it was seen. */
const props = defineProps<{ picture: TestPicture }>();
const seen = defineModel<SeenWater[]>({ required: true });
const kinds = ["out", "stands", "in"] as const;
const did = ref<SeenWater["did"]>("out");
const MOST = 24;
const unit = computed(() => Math.max(props.picture.frame[2] ?? 1, props.picture.frame[3] ?? 1) / 100);
const svg = ref<SVGSVGElement | null>(null);
function point(e: MouseEvent) {
  const matrix = svg.value?.getScreenCTM()?.inverse();
  if (!matrix || seen.value.length >= MOST) return;
  const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
  seen.value = [...seen.value, spotAt(props.picture.origin, [at.x, at.y], did.value)];
}
/** By keys: Enter puts a spot in the middle of what is shown, arrows move the last one. */
function key(e: KeyboardEvent) {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
  const last = seen.value.at(-1);
  const [x = 0, y = 0, w = 0, h = 0] = props.picture.frame;
  if (by && last) {
    const far = e.shiftKey ? 6 : 1;
    seen.value = [...seen.value.slice(0, -1), moved(last, [(by[0] ?? 0) * far, (by[1] ?? 0) * far])];
  } else if (e.key === "Enter" && seen.value.length < MOST) {
    seen.value = [...seen.value, spotAt(props.picture.origin, [x + w / 2, y + h / 2], did.value)];
  } else return;
  e.preventDefault();
}
const spots = computed(() => seen.value.map((spot) => ({ ...spot, at: onDrawing(props.picture.origin, spot) })));
const way = (drop: { x: number; y: number }[]) => drop.map((p) => `${p.x},${p.y}`).join(" ");
</script>

<template>
  <figure class="tested">
    <svg class="hatches" aria-hidden="true" focusable="false"><HatchPatterns /></svg>
    <svg
      ref="svg"
      :viewBox="picture.frame.join(' ')"
      tabindex="0"
      role="application"
      :aria-label="`${s.test.point} ${s.test.keys}`"
      data-test="test-picture"
      @click="point"
      @keydown="key"
    >
      <rect x="0" y="0" :width="picture.elevation.width" :height="picture.elevation.height" class="ground" />
      <WallShapes :shapes="picture.elevation.shapes" :edge="unit * 0.3" />
      <rect
        v-for="o in picture.elevation.openings"
        :key="o.id"
        :x="o.rect[0]"
        :y="o.rect[1]"
        :width="o.rect[2]"
        :height="o.rect[3]"
        :class="['opening', o.state]"
        :stroke-width="unit * 0.5"
      />
      <template v-for="o in picture.elevation.openings" :key="`g${o.id}`">
        <rect
          v-if="o.glass"
          :x="o.glass[0]"
          :y="o.glass[1]"
          :width="o.glass[2]"
          :height="o.glass[3]"
          class="glass"
          :stroke-width="unit * 0.5"
        />
      </template>
      <g v-for="(out, i) in picture.outs" :key="`o${i}`" class="out">
        <polyline :points="way(out.drop)" class="halo" :stroke-width="unit * 2" />
        <polyline :points="way(out.drop)" class="way" :stroke-width="unit * 0.9" />
        <g v-for="(l, n) in out.along" :key="n">
          <line :x1="l[0]" :y1="l[1]" :x2="l[2]" :y2="l[3]" class="halo" :stroke-width="unit * 3.4" />
          <line :x1="l[0]" :y1="l[1]" :x2="l[2]" :y2="l[3]" class="way" :stroke-width="unit * 2" />
        </g>
      </g>
      <g v-for="(drop, i) in picture.ins" :key="`i${i}`">
        <polyline :points="way(drop)" class="halo" :stroke-width="unit * 2" />
        <polyline
          :points="way(drop)"
          class="leaks"
          :stroke-width="unit * 0.9"
          :stroke-dasharray="`${unit * 2} ${unit}`"
        />
      </g>
      <g v-for="(spot, i) in spots" :key="`s${i}`" :class="['spot', spot.did]" data-test="seen-spot">
        <circle :cx="spot.at[0]" :cy="spot.at[1]" :r="unit * 4" :stroke-width="unit * 0.8" />
        <text :x="spot.at[0]" :y="spot.at[1]" :font-size="unit * 5">{{ i + 1 }}</text>
      </g>
    </svg>
    <figcaption>
      <p v-for="(out, i) in picture.outs" :key="i">
        <b>{{ out.name }}</b> {{ out.says }}.
      </p>
      <p v-if="!picture.outs.length">{{ s.test.noWayOut }}</p>
      <p v-if="picture.ins.length">{{ s.test.waysIn }}</p>
    </figcaption>
    <p>{{ s.test.point }}</p>
    <div class="choices kinds">
      <button
        v-for="k in kinds"
        :key="k"
        :class="{ on: k === did }"
        :aria-pressed="k === did"
        :data-did="k"
        @click="did = k"
      >
        {{ s.test.did[k] }}
      </button>
    </div>
    <ol v-if="seen.length" class="spots">
      <li v-for="(spot, i) in seen" :key="i">
        <span>{{ s.test.spot(spot) }}</span>
        <button :aria-label="s.test.forget(i + 1)" @click="seen = seen.filter((_, n) => n !== i)">✕</button>
      </li>
    </ol>
  </figure>
</template>

<style scoped>
.tested {
  margin: 0;
}
.hatches {
  position: absolute;
  width: 0;
  height: 0;
}
.tested > svg:not(.hatches) {
  display: block;
  width: 100%;
  max-height: 52vh;
  background: var(--wall);
  border: 1.5px solid var(--ink);
  cursor: crosshair;
  touch-action: manipulation;
}
.tested svg:focus-visible {
  outline: 3px solid var(--focus);
  outline-offset: 2px;
}
figcaption {
  margin: 6px 0 8px;
}
.kinds {
  grid-template-columns: 1fr 1fr 1fr;
  margin: 6px 0;
}
.ground {
  fill: var(--wall);
}
.opening {
  fill: none;
  stroke: var(--ink);
}
.opening.open {
  fill: var(--open);
  fill-opacity: 0.6;
}
.glass {
  fill: var(--f-unit);
  stroke: var(--ink);
}
.halo {
  fill: none;
  stroke: var(--sheet);
  stroke-opacity: 0.9;
}
.way {
  fill: none;
  stroke: var(--water);
}
.leaks {
  fill: none;
  stroke: var(--leak);
}
.spot circle {
  fill: var(--sheet);
  stroke: var(--water);
}
.spot.stands circle {
  stroke: var(--glue);
}
.spot.in circle {
  stroke: var(--leak);
}
.spot text {
  text-anchor: middle;
  dominant-baseline: central;
  font-weight: 700;
  fill: var(--ink);
}
.spots {
  margin: 0;
  padding: 0 0 0 1.6em;
}
.spots li > span {
  display: inline-block;
  width: calc(100% - 64px);
  vertical-align: middle;
}
.spots button {
  min-width: 52px;
}
</style>
