<script setup lang="ts">
import { computed, ref, shallowRef, watch } from "vue";
import { api, type Heads } from "../api/client";
import { newest } from "../lib/requests";
import { useBuilding } from "../stores/building";
import { useJob } from "../stores/job";
import { s } from "../strings";
import HeadBars from "./HeadBars.vue";
import VerdictMark from "./VerdictMark.vue";

/** The whole building: each wall with its places, what is said of it and how much water each takes. */
const emit = defineEmits<{ wall: [along: [number, number]]; place: [id: string] }>();
const job = useJob();
const walls = computed(() => useBuilding().walls);
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
        <VerdictMark :state="w.state" />
        <b>{{ w.name }}</b>
        <span class="quiet">{{ s.building.places(w.places.length) }}</span>
      </summary>
      <button class="line" :data-show-wall="i" @click="emit('wall', w.along)">{{ s.building.show }}</button>
      <button
        v-for="p in unfolded.has(i) ? w.places : []"
        :key="p.id"
        class="line"
        :data-place="p.id"
        @click="emit('place', p.id)"
      >
        <VerdictMark :state="p.state" /> <b>{{ p.id }}</b> {{ p.name }}
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
