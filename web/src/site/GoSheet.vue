<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, type Conditions, type GoAnswer } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";
import InstrumentPick from "./InstrumentPick.vue";

/** What it is like here now, and whether this step may be done: go, prepare, or wait. */
const props = defineProps<{ step: string; title: string }>();
const emit = defineEmits<{ note: [text: string]; close: [] }>();
const now = defineModel<Conditions>({ required: true });
const job = useJob();
const answer = ref<GoAnswer | null>(null);
const silent = ref(false);
const numbers = ["surface_f", "air_f", "humidity", "wind_mph", "rain_in_h"] as const;
const flags = ["wet", "frost", "sun"] as const;
function set(field: (typeof numbers)[number], text: string) {
  const value = text.trim() === "" ? null : Number(text);
  now.value = { ...now.value, [field]: value === null || Number.isNaN(value) ? null : value };
}
watch(
  now,
  async (asked) => {
    const id = job.state?.id;
    if (id === undefined) return;
    try {
      const { data } = await api.POST("/api/jobs/{id}/go", {
        params: { path: { id } },
        body: { step: props.step, now: asked },
      });
      silent.value = false;
      if (asked === now.value) answer.value = data ?? null;
    } catch {
      silent.value = true;
      answer.value = null;
    }
  },
  { immediate: true },
);
const says = computed(() => answer.value?.says ?? []);
/** The dew point, where nothing that is said names it already. */
const dew = computed(() => {
  const at = answer.value?.dew_f;
  const said = at == null ? "" : s.go.dew(Math.round(at));
  return says.value.some((t) => t.startsWith(said.replace(/\.$/, ""))) ? "" : said;
});
function keep() {
  const read = numbers.flatMap((f) => (now.value[f] == null ? [] : [`${s.go.fields[f]} ${now.value[f]}`]));
  const so = flags.flatMap((f) => (now.value[f] ? [s.go.flags[f]] : []));
  emit("note", `${s.go[answer.value?.go ?? "wait"]}: ${[...read, ...so].join(", ")}. ${says.value.join(" ")}`);
}
</script>

<template>
  <section class="site-sheet" role="dialog" :aria-label="s.go.title" data-test="go-sheet">
    <header>
      <h2>{{ s.go.title }} {{ title }}</h2>
      <button class="plain" :aria-label="s.site.cancel" @click="emit('close')">✕</button>
    </header>
    <div v-if="answer" class="answer" :class="answer.go" role="status" data-test="go">
      <b>{{ s.go[answer.go] }}</b>
      <p v-for="t in says" :key="t">{{ t }}</p>
      <p v-if="answer.skin_min != null">{{ s.go.skin(Math.round(answer.skin_min)) }}</p>
      <p v-if="dew">{{ dew }}</p>
    </div>
    <p v-if="silent" class="put">{{ s.go.silent }}</p>
    <InstrumentPick quantity="temperature" @read="(v) => set('surface_f', v)" />
    <div class="grid">
      <label v-for="f in numbers" :key="f">
        {{ s.go.fields[f] }}
        <input
          inputmode="decimal"
          autocomplete="off"
          :value="now[f] ?? ''"
          :data-test="f"
          @change="set(f, ($event.target as HTMLInputElement).value)"
        />
      </label>
    </div>
    <label v-for="f in flags" :key="f" class="tick">
      <input
        type="checkbox"
        :checked="now[f]"
        :data-test="f"
        @change="now = { ...now, [f]: ($event.target as HTMLInputElement).checked }"
      />
      {{ s.go.flags[f] }}
    </label>
    <button class="keep" :disabled="!answer" data-test="keep" @click="keep">{{ s.site.keep }}</button>
  </section>
</template>

<style scoped>
.answer {
  display: grid;
  gap: 4px;
  padding: 10px 12px;
  border-left: 8px solid var(--good);
  background: var(--good-soft);
}
.answer b {
  font-size: 1.6rem;
}
.answer.prepare {
  border-color: var(--glue);
  background: var(--glue-soft);
}
.answer.wait {
  border-color: var(--leak);
  background: var(--leak-soft);
}
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
</style>
