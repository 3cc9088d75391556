<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import { computed, ref, shallowRef, watch } from "vue";
import { api, sentence, type Share } from "../api/client";
import { useJob } from "../stores/job";
import { locale } from "../lib/language";
import { s } from "../strings";

/** Links that show a job, or the steps of one opening, to whoever has them; each until its day, or until it is taken back. */
const props = defineProps<{ id: number }>();
const job = useJob();
const shares = shallowRef<Share[]>([]);
const place = ref("");
const days = ref(14);
const address = ref("");
const wrong = ref("");
const places = computed(() => [
  { value: "", label: s.people.wholeJob },
  ...(job.state?.job.openings ?? []).map((o) => ({ value: o.id, label: `${o.id} · ${o.name}` })),
]);
async function load() {
  const { data } = await api
    .GET("/api/jobs/{id}/shares", { params: { path: { id: props.id } } })
    .catch(() => ({ data: undefined }));
  shares.value = data ?? [];
}
watch(() => props.id, load, { immediate: true });
async function share() {
  const { data, error } = await api
    .POST("/api/jobs/{id}/shares", {
      params: { path: { id: props.id } },
      body: { place: place.value || null, days: Math.round(days.value) },
    })
    .catch(() => ({ data: undefined, error: undefined }));
  wrong.value = data ? "" : sentence(error, s.errors.offline);
  if (data) address.value = location.origin + data.address;
  await load();
}
async function takeBack(of: number) {
  await api
    .DELETE("/api/jobs/{id}/shares/{share}", { params: { path: { id: props.id, share: of } } })
    .catch(() => undefined);
  await load();
}
const when = (iso: string) => new Date(iso).toLocaleDateString(locale, { dateStyle: "medium" });
</script>

<template>
  <div data-test="shares">
    <p class="row">
      <Select
        v-model="place"
        size="small"
        :options="places"
        option-label="label"
        option-value="value"
        :aria-label="s.people.shows"
      />
      <label>{{ s.people.days }} <input v-model.number="days" type="number" min="1" max="366" /></label>
      <Button size="small" :label="s.people.share" data-test="share" @click="share" />
    </p>
    <p v-if="wrong" role="alert" class="wrong">{{ wrong }}</p>
    <p v-if="address" data-test="shared">
      {{ s.people.send }} <code>{{ address }}</code>
    </p>
    <ul>
      <li v-for="x in shares" :key="x.id">
        {{ x.place ?? s.people.wholeJob }}
        <span class="quiet">{{ s.people.until(when(x.until)) }} · {{ x.by }}</span>
        <Button size="small" text :label="s.people.takeBack" @click="takeBack(x.id)" />
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  padding: 0;
  list-style: none;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
input {
  width: 5em;
  min-height: 36px;
  font: inherit;
}
code {
  display: block;
  padding: 8px;
  overflow-wrap: anywhere;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.wrong {
  color: var(--leak);
}
</style>
