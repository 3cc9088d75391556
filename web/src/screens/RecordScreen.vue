<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, shallowRef, watch } from "vue";
import { useRoute } from "vue-router";
import { api, type RecordLine, type WholeRecord } from "../api/client";
import ScreenBar from "../shell/ScreenBar.vue";
import { useJob } from "../stores/job";
import { useRecord } from "../stores/record";
import { locale } from "../lib/language";
import { s } from "../strings";

/** What was done, as it was written down: the newest first, with its photographs; what is wrong is corrected by another entry. */
const job = useJob();
const record = useRecord();
const route = useRoute();
const lines = shallowRef<RecordLine[]>([]);
const total = ref(0);
const whole = shallowRef<WholeRecord | null>(null);
const PAGE = 200;
const first = ref(1);
async function load(from?: number) {
  const id = job.state?.id;
  if (id === undefined) return;
  record.open(id);
  await record.look();
  total.value = record.entries;
  first.value = Math.max(1, from ?? total.value - PAGE + 1);
  const { data } = await api
    .GET("/api/jobs/{id}/record/lines", { params: { path: { id }, query: { from: first.value } } })
    .catch(() => ({ data: undefined }));
  lines.value = (data ?? []).slice(0, PAGE).reverse();
}
watch(
  () => job.state?.id,
  () => void load(),
  { immediate: true },
);
// What comes in while one looks is shown where the newest are shown.
watch(
  () => record.entries,
  (now) => now > total.value && first.value + PAGE > total.value && void load(),
);
async function verify() {
  const id = job.state?.id;
  if (id === undefined) return;
  const { data } = await api
    .GET("/api/jobs/{id}/record/verify", { params: { path: { id } } })
    .catch(() => ({ data: undefined }));
  whole.value = data ?? null;
}
const when = (at: string) =>
  new Date(at).toLocaleString(locale, { month: "short", day: "numeric", hour: "numeric", minute: "2-digit" });
const place = ref("");
const places = computed(() => (job.state?.job.openings ?? []).map((o) => o.id));
const shown = computed(() => lines.value.filter((l) => place.value === "" || l.place === place.value));
const at = (file: string) => `/api/jobs/${route.params.id}/${file}`;
const outs = computed(() => [
  { label: s.record.out.pdf, href: at(place.value ? `record.pdf?opening=${place.value}` : "record.pdf"), test: "pdf" },
  { label: s.record.out.zip, href: at("record.zip"), test: "zip" },
  { label: s.record.out.csv, href: at("record.csv"), test: "csv" },
  { label: s.record.out.handover, href: at("handover.pdf"), test: "handover" },
  {
    label: s.record.out.labels,
    href: at(`place-labels.pdf?base=${encodeURIComponent(location.origin)}`),
    test: "labels",
  },
]);
/** The entry that is wrong, and what is right. */
const wrong = ref<RecordLine | null>(null);
const right = ref("");
async function correct() {
  const l = wrong.value;
  if (!l || right.value.trim() === "") return;
  if (record.who === "") record.setWho(s.record.office);
  record.add({ is: "corrects", id: l.id }, { place: l.place, step: "" }, right.value.trim());
  [wrong.value, right.value] = [null, ""];
}
const differs = computed(() =>
  [...record.states.values()].flatMap((x) => x.differ.map((d) => ({ ...d, step: x.step }))),
);
const titles = computed(() => new Map((job.view?.steps ?? []).map((x) => [x.id, `${x.opening} ${x.title}`])));
</script>

<template>
  <div>
    <ScreenBar :title="s.record.title">
      <Button text :label="s.record.verify" data-test="verify" @click="verify" />
    </ScreenBar>
    <main class="page" data-test="record">
      <p class="quiet">{{ s.record.help }}</p>
      <p class="outs no-print">
        <label
          >{{ s.record.place }}
          <select v-model="place" data-test="place">
            <option value="">{{ s.record.everywhere }}</option>
            <option v-for="p in places" :key="p" :value="p">{{ p }}</option>
          </select></label
        >
        <a v-for="o in outs" :key="o.test" :href="o.href" download :data-test="`out-${o.test}`">{{ o.label }}</a>
      </p>
      <p v-if="whole" class="whole" :class="{ broken: whole.broken }" role="status" data-test="whole">
        <template v-if="whole.broken"
          >✕ {{ s.record.number }} {{ whole.broken.number }}: {{ whole.broken.why }}</template
        >
        <template v-else>✓ {{ s.record.whole(whole.entries, whole.last.slice(0, 12)) }}</template>
      </p>
      <p v-for="d in differs" :key="`${d.step} ${d.check}`" class="whole broken" role="status" data-test="differ">
        <b>{{ s.site.differ }}</b>, {{ titles.get(d.step) ?? d.step }}:
        {{ s.site.differSays(d.who[0] ?? "", d.who[1] ?? "") }} ({{ d.entries.join(", ") }})
      </p>
      <p v-if="lines.length === 0">{{ s.record.empty }}</p>
      <table v-else>
        <thead>
          <tr>
            <th scope="col">{{ s.record.number }}</th>
            <th scope="col">{{ s.record.when }}</th>
            <th scope="col">{{ s.record.who }}</th>
            <th scope="col">{{ s.record.where }}</th>
            <th scope="col">{{ s.record.what }}</th>
            <th scope="col">{{ s.record.note }}</th>
            <th scope="col">
              <span class="visually-hidden">{{ s.record.wrong }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="l in shown"
            :key="l.number"
            :class="{ bad: l.good === false, corrected: l.corrected }"
            :data-entry="l.number"
          >
            <td>{{ l.number }}</td>
            <td :title="l.taken">{{ when(l.at) }}</td>
            <td>{{ l.who }}</td>
            <td>
              <b>{{ l.place }}</b> {{ l.step }}
            </td>
            <td>
              {{ l.good === false ? "✕ " : l.good ? "✓ " : "" }}{{ l.what }}
              <em v-if="l.corrected"> ({{ s.record.corrected }})</em>
            </td>
            <td>
              {{ l.note }} <em v-if="l.odd">{{ l.odd }}</em>
              <span class="shots">
                <a v-for="p in l.photos" :key="p" :href="at(`photos/${p}`)" target="_blank" rel="noopener">
                  <img :src="at(`photos/${p}`)" :alt="s.record.photo(l.number)" loading="lazy" />
                </a>
              </span>
            </td>
            <td>
              <Button
                v-if="!l.corrected"
                text
                size="small"
                :label="s.record.wrong"
                :data-test="`wrong-${l.number}`"
                @click="wrong = l"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <p class="row">
        <Button v-if="first > 1" text :label="s.record.older" @click="load(first - PAGE)" />
        <Button v-if="first + PAGE <= total" text :label="s.record.newer" @click="load(first + PAGE)" />
      </p>
      <form v-if="wrong" class="correct" data-test="correct" @submit.prevent="correct">
        <label for="right">{{ s.record.number }} {{ wrong.number }}, {{ wrong.what }}. {{ s.record.right }}</label>
        <textarea id="right" v-model="right" rows="2" maxlength="1000" data-test="right"></textarea>
        <Button text :label="s.site.cancel" @click="wrong = null" />
        <Button type="submit" :label="s.site.keep" :disabled="right.trim() === ''" data-test="correct-keep" />
      </form>
    </main>
  </div>
</template>

<style scoped>
.outs {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: center;
}
.outs select {
  min-height: 32px;
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
}
.whole {
  padding: 8px 12px;
  background: var(--good-soft);
  border-left: 4px solid var(--good);
}
.whole.broken {
  background: var(--leak-soft);
  border-color: var(--leak);
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 5px 8px;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
.bad td {
  background: var(--leak-soft);
}
.corrected td {
  color: var(--ink-soft);
  text-decoration: line-through;
}
.corrected td em {
  display: inline-block;
  text-decoration: none;
}
em {
  color: var(--glue);
}
.shots {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.shots img {
  display: block;
  width: 84px;
  height: 64px;
  object-fit: cover;
  border: 1px solid var(--line);
}
.correct {
  position: fixed;
  right: 20px;
  bottom: 20px;
  z-index: 10;
  display: grid;
  gap: 8px;
  width: min(460px, calc(100vw - 40px));
  padding: 14px;
  background: var(--sheet);
  border: 1.5px solid var(--ink);
}
.correct textarea {
  font: inherit;
  color: var(--ink);
  background: var(--paper);
}
</style>
