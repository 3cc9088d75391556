<script setup lang="ts">
import table from "../../../crates/kame-core/data/hatches.json";

/** Each role's hatch, from the table by which files are hatched, too. */
const hatches: { role: string; size: number[]; fill: string; lines?: string; thick?: number; dots?: number[][] }[] =
  table.hatches;
</script>

<template>
  <!-- Each role by its own hatch, so that pieces are told apart without colour. -->
  <defs>
    <pattern id="m-framing" width="1.5" height="1.5" patternUnits="userSpaceOnUse">
      <path d="M0 1.5 1.5 0" stroke="var(--hatch)" stroke-width=".05" fill="none" />
    </pattern>
    <pattern id="m-concrete" width="1.6" height="1.6" patternUnits="userSpaceOnUse">
      <circle cx=".4" cy=".4" r=".09" fill="var(--hatch)" />
      <circle cx="1.1" cy="1" r=".14" fill="var(--hatch)" />
    </pattern>
    <pattern id="m-batt" width="1.4" height="2" patternUnits="userSpaceOnUse">
      <path d="M0 1c.35-1.300.35 1.300.7 0s.35-1.300.7 0" stroke="var(--hatch)" stroke-width=".05" fill="none" />
    </pattern>
    <pattern id="m-boards" width=".9" height=".9" patternUnits="userSpaceOnUse">
      <path d="M0 0 .9 .9M.9 0 0 .9" stroke="var(--hatch)" stroke-width=".04" fill="none" />
    </pattern>
    <pattern id="m-cladding" width=".8" height=".8" patternUnits="userSpaceOnUse">
      <path d="M0 .4h.8" stroke="var(--hatch)" stroke-width=".05" />
    </pattern>
    <pattern
      v-for="h in hatches"
      :id="`h-${h.role}`"
      :key="h.role"
      :width="h.size[0]"
      :height="h.size[1]"
      patternUnits="userSpaceOnUse"
    >
      <!-- What stands in the gap has no fill: what is behind it is to be seen. -->
      <rect v-if="h.fill" :width="h.size[0]" :height="h.size[1]" :fill="`var(--f-${h.fill})`" />
      <path v-if="h.lines" :d="h.lines" stroke="var(--hatch)" :stroke-width="h.thick" fill="none" />
      <circle v-for="[x, y, r] in h.dots" :key="`${x} ${y}`" :cx="x" :cy="y" :r="r" fill="var(--hatch)" />
    </pattern>
    <pattern id="h-air" width="5" height="8" patternUnits="userSpaceOnUse">
      <path d="M2.500 7V1.500M1 3.400 2.500 1.200 4 3.400" fill="none" stroke="var(--good)" stroke-width=".5" />
    </pattern>
    <pattern id="h-still" width="3.200" height="3.200" patternUnits="userSpaceOnUse">
      <rect width="3.200" height="3.200" fill="var(--leak-soft)" opacity=".75" />
      <path d="M.6 .6 2.600 2.600M2.600 .6.6 2.600" stroke="var(--leak)" stroke-width=".4" />
    </pattern>
    <pattern id="h-wet" width="1.8" height="1.8" patternUnits="userSpaceOnUse" patternTransform="rotate(20)">
      <path d="M.9 0v1.800" stroke="var(--water)" stroke-width=".55" />
    </pattern>
    <pattern id="h-wet-low" width="2.6" height="2.6" patternUnits="userSpaceOnUse" patternTransform="rotate(20)">
      <circle cx="1.300" cy="1.300" r=".45" fill="var(--water)" />
    </pattern>
  </defs>
</template>
