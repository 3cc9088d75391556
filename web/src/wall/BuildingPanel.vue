<script setup lang="ts">
import { computed, ref, shallowRef, watch } from "vue";
import { api, type Heads } from "../api/client";
import { newest } from "../lib/requests";
import { worstOf } from "../lib/verdict";
import { useJob } from "../stores/job";
import { s } from "../strings";
import HeadBars from "./HeadBars.vue";
import WorstMark from "./WorstMark.vue";

/** The whole building: each wall with its places, the worst that is found there and how much water each takes. */
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
/** Walls that are folded open: heads are asked for where they are looked at. */
const unfolded = ref(new Set<number>());
const heads = shallowRef<Heads | null>(null);
const headOf = computed(() => new Map((heads.value?.places ?? []).map((p) => [p.id, p])));
function fold(wall: number, event: Event) {
  const next = new Set(unfolded.value);
  if ((event.target as HTMLDetailsElement).open) next.add(wall);
  else next.delete(wall);
  unfolded.value = next;
}
watch(
  () => [job.state?.id, job.state?.revision, job.view?.done, unfolded.value.size > 0] as const,
  async ([id, , done, looked]) => {
    if (!id || !looked) return;
    const params = { path: { id }, query: { done } };
    // Without them the list stands as it is: what is found tells the rest.
    const data = await newest("heads", (signal) => api.GET("/api/jobs/{id}/heads", { params, signal })).catch(
      () => null,
    );
    if (data && id === job.state?.id) heads.value = data;
  },
);
</script>

<template>
  <section class="building" :aria-label="s.building.title" data-test="building">
    <p class="quiet">
      {{ s.building.help }} <template v-if="heads">{{ s.compare.bars }}</template>
    </p>
    <details v-for="(w, i) in walls" :key="i" :data-wall="i" @toggle="fold(i, $event)">
      <summary>
        <WorstMark :worst="w.worst" />
        <b>{{ w.name }}</b>
        <span class="quiet">{{ s.building.places(w.places.length) }}</span>
      </summary>
      <button class="line" :data-show-wall="i" @click="emit('wall', w.along)">{{ s.building.show }}</button>
      <button v-for="p in w.places" :key="p.id" class="line" :data-place="p.id" @click="emit('place', p.id)">
        <WorstMark :worst="p.worst" /> <b>{{ p.id }}</b> {{ p.name }}
        <HeadBars
          v-if="heads && headOf.get(p.id)"
          :holds="headOf.get(p.id)!.holds ?? null"
          :lost="headOf.get(p.id)!.lost ?? null"
          :floors="heads.floors"
          :followed="heads.followed"
        />
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
  flex-wrap: wrap;
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
.line :deep(.heads) {
  flex-basis: 100%;
  padding-left: 26px;
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
