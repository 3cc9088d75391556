<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, type Check, type Judgement, type RecordEvent } from "../api/client";
import { asInches, average, fits } from "../lib/site";
import { useJob } from "../stores/job";
import { s } from "../strings";
import InstrumentPick from "./InstrumentPick.vue";
import KeyPad from "./KeyPad.vue";
import PhotoPick from "./PhotoPick.vue";

/** One check in one hand: readings by a keypad of inches and fractions, judged one by one; or a look; or what stands on a label. */
const props = defineProps<{ check: Check; who: string; again?: boolean }>();
const emit = defineEmits<{
  keep: [what: RecordEvent["what"], by: string, photos: string[], note: string];
  close: [];
}>();
const job = useJob();
const isLength = computed(() => props.check.quantity === "length");
const isLook = computed(() => props.check.quantity === "look" || props.check.judged === "yes");
const isText = computed(() => props.check.quantity === "lot");
const values = ref<string[]>([]);
const typed = ref<string | null>(null);
const pad = ref<InstanceType<typeof KeyPad> | null>(null);
const instrument = ref("");
const text = ref("");
const other = ref("");
const note = ref("");
const photos = ref<string[]>([]);
const needsOther = computed(() => props.check.by === "other");
const by = computed(() => (needsOther.value ? other.value.trim() : props.who));
const isOther = computed(
  () => !needsOther.value || (by.value !== "" && by.value.toLowerCase() !== props.who.toLowerCase()),
);
const said = (v: string) => (isLength.value ? asInches(v) : `${v} ${props.check.unit}`);
const all = computed(() => (typed.value === null ? values.value : [...values.value, typed.value]));
const numbers = computed(() => all.value.map(Number));
const good = computed(() => (all.value.length === 0 ? null : fits(props.check, numbers.value)));
/** More than so many are not taken. */
const MOST = 24;
/** What the core says of it; without a signal the bounds alone speak. */
const judged = ref<Judgement | null>(null);
watch(numbers, async (now) => {
  judged.value = null;
  const id = job.state?.id;
  if (id === undefined || now.length === 0) return;
  const body = { check: props.check.id, values: now };
  const { data } = await api
    .POST("/api/jobs/{id}/judge", { params: { path: { id } }, body })
    .catch(() => ({ data: undefined }));
  if (data && now === numbers.value) judged.value = data;
});
const says = computed(() => {
  if (all.value.length === 0) return "";
  if (judged.value) return judged.value.says;
  if (good.value === false) return s.site.offBy(props.check.asked);
  if (good.value === true) return s.site.fine;
  const left = props.check.readings - all.value.length;
  return left > 0 ? s.site.more(left) : "";
});
function nextReading() {
  if (typed.value === null) return;
  values.value = [...values.value, typed.value];
  typed.value = null;
  pad.value?.wipe();
}
/** From an instrument: as if it had been typed. */
function read(value: string, from: string) {
  if (all.value.length < MOST) values.value = [...all.value, value];
  typed.value = null;
  pad.value?.wipe();
  instrument.value = from;
}
const keep = (what: RecordEvent["what"]) => emit("keep", what, by.value, photos.value, note.value.trim());
function keepReadings() {
  const { id, unit, asked } = props.check;
  keep({ is: "reading", check: id, values: all.value, unit, instrument: instrument.value, asked, good: good.value });
}
</script>

<template>
  <section class="site-sheet" role="dialog" :aria-label="check.name" data-test="check-sheet">
    <header>
      <h2>{{ check.name }}</h2>
      <button class="plain" :aria-label="s.site.cancel" @click="emit('close')">✕</button>
    </header>
    <p>
      <b>{{ check.asked }}</b> {{ check.at }}
    </p>
    <label v-if="needsOther">
      {{ s.site.other }} <small>{{ s.site.otherHelp(who) }}</small>
      <input v-model="other" autocomplete="off" maxlength="60" data-test="other" />
    </label>
    <template v-if="isLook">
      <PhotoPick v-model="photos" :wanted="check.photo" />
      <label>
        {{ s.site.words }}
        <input v-model="note" maxlength="1000" data-test="check-note" />
      </label>
      <div class="two">
        <button
          class="keep"
          :disabled="!isOther"
          data-test="good"
          @click="keep({ is: 'looked', check: check.id, good: true })"
        >
          ✓ {{ s.site.good }}
        </button>
        <button :disabled="!isOther" data-test="bad" @click="keep({ is: 'looked', check: check.id, good: false })">
          ✕ {{ s.site.bad }}
        </button>
      </div>
      <button data-test="unreached" @click="keep({ is: 'not_reached', check: check.id })">
        {{ s.site.unreached }}
      </button>
      <button v-if="again" data-test="mended" @click="keep({ is: 'mended', check: check.id })">
        {{ s.site.mended }}
      </button>
    </template>
    <template v-else-if="isText">
      <label>
        {{ s.site.lot }}
        <input v-model="text" autocomplete="off" maxlength="120" data-test="lot" />
      </label>
      <PhotoPick v-model="photos" :wanted="check.photo" />
      <button
        class="keep"
        :disabled="text.trim() === '' || !isOther"
        data-test="keep"
        @click="keep({ is: 'lot', check: check.id, text: text.trim() })"
      >
        {{ s.site.keep }}
      </button>
    </template>
    <template v-else>
      <ol class="values">
        <li v-for="(v, i) in all" :key="i" :class="{ off: judged?.worst === i }">{{ said(v) }}</li>
        <li v-for="n in Math.max(0, check.readings - all.length)" :key="`m${n}`" class="missing">
          {{ check.spots[all.length + n - 1]?.name ?? s.site.reading(all.length + n, check.readings) }}
        </li>
      </ol>
      <p v-if="!isLength && numbers.length > 1" data-test="average">
        {{ s.site.average(`${average(numbers)} ${check.unit}`, `${Math.min(...numbers)} ${check.unit}`) }}
      </p>
      <p class="says" :class="{ good: good === true, bad: good === false }" role="status" data-test="says">
        <template v-if="good === true">✓ </template><template v-else-if="good === false">✕ </template>{{ says }}
      </p>
      <InstrumentPick :quantity="check.quantity" @read="read" />
      <KeyPad ref="pad" :inches="isLength" @typed="(v) => (typed = v)" @back="values = values.slice(0, -1)" />
      <div class="two">
        <button
          v-if="all.length < check.readings || check.quantity === 'thickness'"
          class="keep"
          :disabled="typed === null || all.length >= MOST"
          data-test="next-reading"
          @click="nextReading"
        >
          {{ s.site.next }}
        </button>
        <button class="keep" :disabled="all.length === 0 || !isOther" data-test="keep" @click="keepReadings">
          {{ s.site.keep }}
        </button>
      </div>
      <button v-if="again" data-test="mended" @click="keep({ is: 'mended', check: check.id })">
        {{ s.site.mended }}
      </button>
    </template>
  </section>
</template>

<style scoped>
.values {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.values li {
  min-width: 84px;
  padding: 6px 10px;
  font-size: 1.5rem;
  font-weight: 700;
  text-align: center;
  border: 1.5px solid var(--ink);
}
.values .missing {
  max-width: 120px;
  font-size: 0.9rem;
  font-weight: 400;
  border-style: dashed;
}
.values .off {
  background: var(--leak-soft);
  border-color: var(--leak);
}
</style>
