<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from "vue";
import { useRoute } from "vue-router";
import { api, type Check, type Point, type RecordEvent } from "../api/client";
import CheckSheet from "../site/CheckSheet.vue";
import "../site/sheet.css";
import { useJob } from "../stores/job";
import { useRecord } from "../stores/record";
import { s } from "../strings";

/** Before it is covered: every point that somebody looks at, along the scaffold. */
const job = useJob();
const record = useRecord();
const route = useRoute();
const points = shallowRef<Point[]>([]);
const check = shallowRef<Check | null>(null);
const wrong = ref("");
const onlyLeft = ref(true);
async function load() {
  const id = job.state?.id;
  if (id === undefined) return;
  record.open(id);
  const params = { path: { id } };
  try {
    const { data } = await api.GET("/api/jobs/{id}/walk", { params });
    points.value = data ?? [];
    wrong.value = "";
    const waits = record.waiting.filter((e) => "check" in e.what);
    saidHere.value = new Map(waits.map((e) => ["check" in e.what ? e.what.check : "", statusOf(e.what)]));
  } catch {
    wrong.value = s.different.silent;
  }
}
watch(
  () => [job.state?.id, job.state?.revision, record.entries],
  () => void load(),
  { immediate: true },
);
onMounted(() => void record.look());
/** What was said here lies over what the record said, until that knows of it. */
const saidHere = ref(new Map<string, Point["now"]>());
function statusOf(what: RecordEvent["what"]): Point["now"] {
  if (what.is === "mended") return "look-again";
  if (what.is === "not_reached") return "unreached";
  return "good" in what && what.good === false ? "mend" : "good";
}
const now = (p: Point): Point["now"] => saidHere.value.get(p.check) ?? p.now;
const isLeft = (p: Point) => p.seen !== "not-yet" && now(p) !== "good" && now(p) !== "unreached";
const left = computed(() => points.value.filter(isLeft).length);
const walls = computed(() => job.view?.elevation.key.map((w) => w.name) ?? []);
const lifts = computed(() => {
  const out: { key: string; title: string; points: Point[] }[] = [];
  for (const p of points.value) {
    if (onlyLeft.value && !isLeft(p)) continue;
    const key = `${p.wall} ${p.lift}`;
    if (out.at(-1)?.key !== key)
      out.push({
        key,
        title: s.walk.lift(walls.value[p.wall] ?? job.state?.job.wall.name ?? "", p.lift + 1),
        points: [],
      });
    out.at(-1)?.points.push(p);
  }
  return out;
});
const sheet = ref<Point | null>(null);
/** The checks of a place are on the device, where the job was taken along. */
async function open(p: Point) {
  const id = job.state?.id;
  if (id === undefined) return;
  try {
    const params = { path: { id }, query: { opening: p.place } };
    const { data } = await api.GET("/api/jobs/{id}/checks", { params });
    check.value = (data ?? []).find((c) => c.id === p.check) ?? null;
    sheet.value = p;
  } catch {
    wrong.value = s.different.silent;
  }
}
function keep(what: RecordEvent["what"], by: string, photos: string[], note: string) {
  const p = sheet.value;
  if (!p) return;
  record.add(what, { place: p.place, step: p.step }, note, by, photos);
  saidHere.value = new Map(saidHere.value).set(p.check, statusOf(what));
  sheet.value = null;
}
const marks = { open: "○", good: "✓", mend: "✕", "look-again": "↻", unreached: "–" };
</script>

<template>
  <main class="walk" data-test="walk-round">
    <p class="head">
      <RouterLink :to="{ name: 'site', params: { id: route.params.id, place: '' } }">‹ {{ s.site.back }}</RouterLink>
    </p>
    <h2>{{ s.walk.title }}</h2>
    <p>{{ s.site.walkHelp }}</p>
    <p v-if="wrong" role="alert">{{ wrong }}</p>
    <p class="count" role="status" data-test="left">{{ s.walk.count(left, points.length) }}</p>
    <div class="two">
      <button :class="{ on: onlyLeft }" :aria-pressed="onlyLeft" @click="onlyLeft = true">{{ s.walk.left }}</button>
      <button :class="{ on: !onlyLeft }" :aria-pressed="!onlyLeft" data-test="all" @click="onlyLeft = false">
        {{ s.walk.all }}
      </button>
    </div>
    <p v-if="points.length === 0">{{ s.walk.empty }}</p>
    <section v-for="l in lifts" :key="l.key">
      <h3>{{ l.title }}</h3>
      <ul>
        <li v-for="p in l.points" :key="p.check">
          <button :disabled="p.seen === 'not-yet'" :data-point="p.check" :data-now="now(p)" @click="open(p)">
            <span class="mark" aria-hidden="true" :class="now(p)">{{ marks[now(p)] }}</span>
            <span class="text">
              <b>{{ p.place || s.site.walls }} · {{ p.title }}</b>
              <span>{{ p.name }}</span>
              <small
                >{{ s.walk.now[now(p)] }} · {{ s.walk.seen[p.seen]
                }}<template v-if="p.under && p.seen !== 'whole'">, {{ s.walk.under(p.under) }}</template
                ><template v-if="p.photo"> · {{ s.photo.wanted }}</template></small
              >
            </span>
          </button>
        </li>
      </ul>
    </section>
    <CheckSheet
      v-if="sheet && check"
      :key="sheet.check"
      :check="check"
      :who="record.who"
      :again="now(sheet) === 'mend'"
      @keep="keep"
      @close="sheet = null"
    />
  </main>
</template>

<style scoped>
.walk {
  box-sizing: border-box;
  width: 100%;
  max-width: 640px;
  margin: 0 auto;
  padding: 8px 14px 90px;
  font-size: 1.05rem;
}
.head a {
  display: inline-flex;
  align-items: center;
  min-height: 48px;
  color: var(--ink);
}
h2 {
  margin: 0;
  font-size: 1.6rem;
}
h3 {
  margin: 14px 0 4px;
}
.count {
  font-weight: 700;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
button {
  min-height: 52px;
  padding: 6px 12px;
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
button:disabled {
  opacity: 0.55;
}
li button {
  display: flex;
  gap: 10px;
  align-items: center;
  width: 100%;
  margin-bottom: 6px;
  text-align: left;
}
.text {
  display: grid;
}
.mark {
  min-width: 26px;
  font-size: 1.3rem;
  font-weight: 700;
  text-align: center;
}
.mend,
.look-again {
  color: var(--leak);
}
.good {
  color: var(--good);
}
.two {
  display: flex;
  gap: 8px;
}
.two > * {
  flex: 1;
}
.on {
  color: var(--shell-ink);
  background: var(--shell);
}
</style>
