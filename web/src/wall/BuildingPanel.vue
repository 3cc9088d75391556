<script setup lang="ts">
import { computed } from "vue";
import { worstOf } from "../lib/verdict";
import { useJob } from "../stores/job";
import { s } from "../strings";
import WorstMark from "./WorstMark.vue";

/** The whole building: each wall with its places and the worst that is found there. */
const emit = defineEmits<{ wall: [along: [number, number]]; place: [id: string] }>();
const job = useJob();
const names = computed(() => new Map((job.state?.job.openings ?? []).map((o) => [o.id, o.name])));
const walls = computed(() =>
  (job.shown?.elevation.key ?? []).map((wall, i) => {
    const openings = (job.shown?.elevation.openings ?? []).filter((o) => o.wall === i);
    const at = (ids: string[]) =>
      worstOf((job.view?.findings ?? []).filter((f) => f.features.some((x) => ids.includes(x))));
    return {
      name: wall.name,
      along: [wall.along[0] ?? 0, wall.along[1] ?? 0] as [number, number],
      worst: worstOf((job.view?.findings ?? []).filter((f) => f.walls.includes(i))),
      places: openings.map((o) => ({ id: o.id, name: names.value.get(o.id) ?? "", worst: at([o.id]) })),
    };
  }),
);
</script>

<template>
  <section class="building" :aria-label="s.building.title" data-test="building">
    <p class="quiet">{{ s.building.help }}</p>
    <details v-for="(w, i) in walls" :key="i" :data-wall="i">
      <summary>
        <WorstMark :worst="w.worst" />
        <b>{{ w.name }}</b>
        <span class="quiet">{{ s.building.places(w.places.length) }}</span>
      </summary>
      <button class="line" :data-show-wall="i" @click="emit('wall', w.along)">{{ s.building.show }}</button>
      <button v-for="p in w.places" :key="p.id" class="line" :data-place="p.id" @click="emit('place', p.id)">
        <WorstMark :worst="p.worst" /> <b>{{ p.id }}</b> {{ p.name }}
      </button>
    </details>
  </section>
</template>

<style scoped>
.building {
  padding: 10px 14px 24px;
}
summary {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
  cursor: pointer;
  border-bottom: 1px solid var(--line);
}
summary .quiet {
  margin-left: auto;
}
.line {
  display: flex;
  gap: 8px;
  align-items: center;
  width: 100%;
  min-height: 36px;
  padding: 4px 4px 4px 18px;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
}
.line:hover {
  background: var(--sheet);
}
@media (max-width: 760px) {
  .line {
    min-height: 44px;
  }
}
</style>
