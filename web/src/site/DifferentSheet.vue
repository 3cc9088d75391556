<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, sentence, type Edit, type Holds, type OpeningView, type RecordEvent, type StepView } from "../api/client";
import { asInches } from "../lib/site";
import { useJob } from "../stores/job";
import { s } from "../strings";
import KeyPad from "./KeyPad.vue";
import PhotoPick from "./PhotoPick.vue";

/** What is not as planned: the plan follows it, the water is asked again, and it is said whether it holds before anything is written down. */
const props = defineProps<{
  step: StepView;
  opening: OpeningView | null;
  event: (what: RecordEvent["what"], note: string) => RecordEvent;
}>();
const emit = defineEmits<{
  keep: [what: RecordEvent["what"], note: string, photos: string[], change: Edit | null];
  close: [];
}>();
const job = useJob();
const note = ref("");
const photos = ref<string[]>([]);
type Kind = "words" | "size" | "piece" | "out";
const kind = ref<Kind>("words");

/** Another size or place of the opening. */
const fields = ["width", "height", "left", "sill"] as const;
const field = ref<(typeof fields)[number]>("width");
const typed = ref<string | null>(null);
const planned = computed(() => props.opening?.[field.value] ?? "");

/** Pieces of this step that can be done wrong in ways the water knows. */
const ways = [
  "fish-mouth",
  "short-left",
  "short-right",
  "short-top",
  "short-bottom",
  "sealed-bottom",
  "off-level",
] as const;
const pieces = computed(() => {
  const all = new Map((job.view?.elevation.shapes ?? []).map((x) => [x.piece, x]));
  const names = new Set(props.step.cuts.map((c) => c.name));
  return [...all.values()].filter(
    (x) =>
      (x.piece.startsWith(`${props.step.opening}/`) || !props.step.opening) &&
      (names.has(x.name) || (x.role === "unit" && props.step.id.endsWith("/set"))),
  );
});
const piece = ref("");
const way = ref<(typeof ways)[number] | "">("");
const waysOf = computed(() => {
  const role = pieces.value.find((x) => x.piece === piece.value)?.role;
  if (role === "unit") return ["sealed-bottom"] as const;
  if (/^(w\d+\.)?course-/.test(piece.value)) return ["off-level"] as const;
  return ways.slice(0, 5);
});
watch(
  pieces,
  (now) => {
    if (!now.some((x) => x.piece === piece.value)) piece.value = now[0]?.piece ?? "";
  },
  { immediate: true },
);
watch(waysOf, (now) => {
  if (way.value && !(now as readonly string[]).includes(way.value)) way.value = "";
});

const change = computed<Edit | null>(() => {
  if (kind.value === "size" && typed.value !== null && props.opening)
    return { edit: "set_opening", id: props.opening.id, [field.value]: `${typed.value} in` } as Edit;
  if (kind.value === "piece" && piece.value && way.value)
    return { edit: "set_as_built", deviation: { kind: way.value, piece: piece.value }, so: true };
  return null;
});
const what = computed<RecordEvent["what"]>(() => ({ is: kind.value === "out" ? "left_out" : "otherwise" }));
/** In words, where the builder wrote none. */
const words = computed(() => {
  const own = note.value.trim();
  const said =
    kind.value === "size" && typed.value !== null
      ? s.different.size(s.different.fields[field.value], asInches(typed.value), planned.value)
      : kind.value === "piece" && way.value
        ? s.different.piece(s.different.ways[way.value], pieces.value.find((x) => x.piece === piece.value)?.name ?? "")
        : "";
  return [said, own].filter((t) => t !== "").join(" ");
});
const ready = computed(
  () =>
    words.value !== "" &&
    (kind.value !== "size" || typed.value !== null) &&
    (kind.value !== "piece" || way.value !== ""),
);

const holds = ref<Holds | null>(null);
const asking = ref(false);
const wrong = ref("");
watch([kind, change], () => (holds.value = null));
async function ask() {
  const id = job.state?.id;
  if (id === undefined) return;
  [asking.value, wrong.value, holds.value] = [true, "", null];
  try {
    const { data, error } = await api.POST("/api/jobs/{id}/holds", {
      params: { path: { id } },
      body: { change: change.value, events: [props.event(what.value, words.value || s.different.notYet)] },
    });
    if (data) holds.value = data;
    else wrong.value = sentence(error, s.different.silent);
  } catch {
    wrong.value = s.different.silent;
  }
  asking.value = false;
}
const kinds = computed<Kind[]>(() => [
  "words",
  ...(props.opening ? (["size"] as const) : []),
  ...(pieces.value.length ? (["piece"] as const) : []),
  "out",
]);
</script>

<template>
  <section class="site-sheet" role="dialog" :aria-label="s.site.otherwise" data-test="different">
    <header>
      <h2>{{ s.site.otherwiseAsk }}</h2>
      <button class="plain" :aria-label="s.site.cancel" @click="emit('close')">✕</button>
    </header>
    <div class="choices kinds">
      <button
        v-for="k in kinds"
        :key="k"
        :class="{ on: kind === k }"
        :aria-pressed="kind === k"
        :data-different="k"
        @click="kind = k"
      >
        {{ s.different.kinds[k] }}
      </button>
    </div>
    <div v-if="holds" class="holds" :class="{ no: !holds.holds }" role="status" data-test="holds">
      <b>{{ holds.holds ? "✓" : "✕" }} {{ holds.says }}</b>
      <p v-for="(f, i) in holds.new.slice(1, 4)" :key="i">{{ f.reason }}</p>
    </div>
    <template v-if="kind === 'size'">
      <div class="two">
        <button
          v-for="f in fields"
          :key="f"
          :class="{ on: field === f }"
          :aria-pressed="field === f"
          @click="field = f"
        >
          {{ s.different.fields[f] }}
        </button>
      </div>
      <p>
        {{ s.different.planned(planned) }} <b v-if="typed">{{ asInches(typed) }}</b>
      </p>
      <KeyPad inches @typed="(v) => (typed = v)" @back="typed = null" />
    </template>
    <template v-else-if="kind === 'piece'">
      <label v-if="pieces.length > 1">
        {{ s.different.which }}
        <select v-model="piece">
          <option v-for="x in pieces" :key="x.piece" :value="x.piece">{{ x.name }}</option>
        </select>
      </label>
      <div class="choices">
        <button
          v-for="w in waysOf"
          :key="w"
          :class="{ on: way === w }"
          :aria-pressed="way === w"
          :data-way="w"
          @click="way = w"
        >
          {{ s.different.ways[w] }}
        </button>
      </div>
    </template>
    <label>
      {{ s.site.words }}
      <textarea v-model="note" rows="2" maxlength="900" data-test="note"></textarea>
    </label>
    <PhotoPick v-model="photos" />
    <p v-if="wrong" class="put" role="alert">{{ wrong }}</p>
    <div class="two">
      <button :disabled="asking || !ready" data-test="ask-water" @click="ask">
        {{ asking ? s.different.asking : s.different.ask }}
      </button>
      <button class="keep" :disabled="!ready" data-test="say-keep" @click="emit('keep', what, words, photos, change)">
        {{ s.site.keep }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.kinds {
  grid-template-columns: 1fr 1fr;
}
.holds {
  display: grid;
  gap: 4px;
  padding: 10px 12px;
  background: var(--good-soft);
  border-left: 8px solid var(--good);
}
.holds.no {
  background: var(--leak-soft);
  border-color: var(--leak);
}
</style>
