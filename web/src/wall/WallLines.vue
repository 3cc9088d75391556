<script setup lang="ts">
import { computed } from "vue";
import type { Elevation } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** Lines across the walls: grade, paving and floors, corners, and the edge of the first course, which can be taken hold of. */
const props = defineProps<{ elevation: Elevation; letter: number; stroke: number; course: number | null }>();
const emit = defineEmits<{ grab: [] }>();
const job = useJob();
const lowest = computed(() => props.elevation.courses.at(-1) ?? null);
</script>

<template>
  <g>
    <g v-for="(l, i) in elevation.levels" :key="`l${i}`" class="level" :class="l.kind" pointer-events="none">
      <line
        :x1="-letter"
        :y1="l.y"
        :x2="elevation.width + letter"
        :y2="l.y"
        :stroke-width="stroke * 2"
        :stroke-dasharray="l.kind === 'floor' ? `${stroke * 12} ${stroke * 6}` : undefined"
        data-test="level-line"
      />
      <text :x="letter * 0.4" :y="l.y - letter * 0.35" :font-size="letter">{{ l.name }}</text>
    </g>
    <g v-if="lowest !== null && !job.isFiltered" class="course" data-test="course-line">
      <line
        v-if="course !== null"
        :x1="elevation.courses_along[0]"
        :y1="course"
        :x2="elevation.courses_along[1]"
        :y2="course"
        :stroke-width="stroke * 3"
        pointer-events="none"
      />
      <rect
        class="grip"
        :x="(elevation.courses_along[0] ?? 0) - letter * 1.6"
        :y="(course ?? lowest) - letter * 0.6"
        :width="letter * 1.6"
        :height="letter * 1.2"
        data-test="course-grip"
        @pointerdown="emit('grab')"
      >
        <title>{{ s.sizes.firstCourse }}</title>
      </rect>
    </g>
    <g v-for="(c, i) in elevation.corners" :key="`c${i}`" class="corner" pointer-events="none" data-test="corner-line">
      <line
        :x1="c.x"
        :y1="-letter"
        :x2="c.x"
        :y2="elevation.height + letter"
        :stroke-width="stroke * 2.5"
        :stroke-dasharray="c.kind === 'inside' ? `${stroke * 10} ${stroke * 6}` : undefined"
      />
      <text :x="c.x + letter * 0.5" :y="-letter * 0.4" :font-size="letter">{{ c.name }} →</text>
      <text :x="c.x - letter * 0.5" :y="elevation.height + letter * 1.2" :font-size="letter" text-anchor="middle">
        {{ c.kind === "inside" ? s.walls.inside : s.walls.outside }}
      </text>
    </g>
  </g>
</template>

<style scoped>
.corner line {
  stroke: var(--ink);
}
.corner text {
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 0.3px;
}
.level line {
  stroke: var(--ink);
}
.level.soil line {
  stroke: var(--earth, #6b4f2a);
}
.level text {
  text-anchor: start;
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 0.3px;
}
.course line {
  stroke: var(--ink);
}
.course rect {
  fill: var(--ink);
  cursor: ns-resize;
}
</style>
