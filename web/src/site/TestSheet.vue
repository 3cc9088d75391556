<script setup lang="ts">
import { computed, ref, shallowRef, watch } from "vue";
import { api, sentence, type RecordEvent, type SeenWater, type TestPicture, type TestSays } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";
import DryingPicture from "./DryingPicture.vue";
import PhotoPick from "./PhotoPick.vue";
import TestDrawing from "./TestDrawing.vue";

/** A test of what was built: its numbers row by row, what they say, and beside it what the wall should do. */
const props = defineProps<{ place: string }>();
const emit = defineEmits<{ keep: [what: RecordEvent["what"], note: string, photos: string[]]; close: [] }>();
const job = useJob();
type Kind = keyof typeof s.test.kinds;
const kinds = Object.keys(s.test.kinds) as Kind[];
const kind = ref<Kind>("drainage");
const rows = ref<string[][]>([[]]);
const volume = ref("");
const note = ref("");
const photos = ref<string[]>([]);
const columns = computed(() => s.test.columns[kind.value]);
const MOST = 60;
/** Water is put on the wall: what it should do stands beside what it did. */
const wet = computed(() => kind.value === "drainage" || kind.value === "spray");
const spots = ref<SeenWater[]>([]);
const picture = shallowRef<TestPicture | null>(null);
const noPicture = ref(false);
/** The place as it stands today, asked for once somebody tests with water. */
async function look() {
  const id = job.state?.id;
  if (id === undefined || !wet.value || picture.value) return;
  try {
    const params = { path: { id }, query: { opening: props.place } };
    const { data } = await api.GET("/api/jobs/{id}/expected", { params });
    picture.value = data ?? null;
  } catch {
    picture.value = null;
  }
  noPicture.value = !picture.value;
}
watch(wet, look, { immediate: true });
function choose(k: Kind) {
  kind.value = k;
  rows.value = k === "air" ? Array.from({ length: 5 }, () => []) : [[]];
  says.value = null;
}
const filled = computed(() => rows.value.filter((r) => columns.value.every((_, c) => (r[c] ?? "").trim() !== "")));
const sent = computed(() => {
  const clean = filled.value.map((r) => columns.value.map((_, c) => (r[c] ?? "").trim()));
  return kind.value === "air" ? [[volume.value.trim()], ...clean] : clean;
});
const ready = computed(() => filled.value.length > 0 && (kind.value !== "air" || volume.value.trim() !== ""));
const kept = computed<RecordEvent["what"]>(() => ({
  is: "test",
  test: kind.value,
  rows: sent.value,
  ...(wet.value && spots.value.length ? { seen: spots.value } : {}),
}));
const says = ref<TestSays | null>(null);
const wrong = ref("");
async function ask() {
  const id = job.state?.id;
  if (id === undefined) return;
  wrong.value = "";
  try {
    const params = { path: { id } };
    const { data, error } = await api.POST("/api/jobs/{id}/test", {
      params,
      body: {
        test: kind.value,
        rows: sent.value,
        seen: wet.value ? spots.value : [],
        place: props.place,
        at: new Date().toISOString(),
      },
    });
    says.value = data ?? null;
    if (!data) wrong.value = sentence(error, s.different.silent);
  } catch {
    wrong.value = s.different.silent;
  }
}
const head = (inches: number | null | undefined) => (inches == null ? s.test.noWay : s.test.head(inches));
</script>

<template>
  <section class="site-sheet" role="dialog" :aria-label="s.test.title" data-test="test-sheet">
    <header>
      <h2>{{ s.test.title }}</h2>
      <button class="plain" :aria-label="s.site.cancel" @click="emit('close')">✕</button>
    </header>
    <div class="choices kinds">
      <button
        v-for="k in kinds"
        :key="k"
        :class="{ on: k === kind }"
        :aria-pressed="k === kind"
        :data-kind="k"
        @click="choose(k)"
      >
        {{ s.test.kinds[k] }}
      </button>
    </div>
    <label v-if="kind === 'air'">
      {{ s.test.volume }}
      <input v-model="volume" inputmode="decimal" maxlength="12" data-test="volume" />
    </label>
    <div v-for="(row, r) in rows" :key="r" class="rows">
      <label v-for="(c, i) in columns" :key="c">
        {{ c }}
        <input v-model="row[i]" inputmode="decimal" maxlength="12" :data-cell="`${r} ${i}`" />
      </label>
    </div>
    <button :disabled="rows.length >= MOST" data-test="more-rows" @click="rows = [...rows, []]">
      {{ s.test.row }}
    </button>
    <template v-if="wet">
      <TestDrawing v-if="picture" v-model="spots" :picture="picture" />
      <p v-else-if="noPicture" role="status">{{ s.test.noPicture }}</p>
    </template>
    <div v-if="says" class="says" role="status" data-test="test-says">
      <p :class="{ good: says.seen.good === true, bad: says.seen.good === false }">
        {{ s.test.seen }} {{ says.seen.says }}
      </p>
      <ol v-if="says.spots.length" class="spots">
        <li
          v-for="(spot, i) in says.spots"
          :key="i"
          :class="{ good: spot.good, bad: !spot.good }"
          data-test="spot-says"
        >
          <span aria-hidden="true">{{ spot.good ? "✓" : "✕" }}</span> {{ spot.says }}
        </li>
      </ol>
    </div>
    <div v-if="says && wet" class="put">
      <b>{{ s.test.expected }} {{ says.predicted.says }}</b>
      <p v-for="(h, i) in says.predicted.heads.filter((h) => h.glue === 'holds')" :key="i">
        {{ h.name }}: {{ head(h.head_in) }}
      </p>
    </div>
    <DryingPicture v-if="says?.drying" :drying="says.drying" />
    <p v-if="wrong" class="bad" role="alert">{{ wrong }}</p>
    <label>
      {{ wet ? s.test.where : s.test.whereRead }}
      <textarea v-model="note" rows="2" maxlength="1000" data-test="note"></textarea>
    </label>
    <PhotoPick v-model="photos" />
    <div class="two">
      <button :disabled="!ready" data-test="ask-test" @click="ask">{{ s.test.ask }}</button>
      <button class="keep" :disabled="!ready" data-test="keep" @click="emit('keep', kept, note.trim(), photos)">
        {{ s.site.keep }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.kinds {
  grid-template-columns: 1fr 1fr;
}
.rows {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(90px, 1fr));
  gap: 8px;
}
</style>
