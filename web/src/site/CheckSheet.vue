<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, type Check, type Judgement, type RecordEvent } from "../api/client";
import { asInches, fits, reading } from "../lib/site";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** One check in one hand: readings by a keypad of inches and fractions, judged one by one; or a look; or what stands on a label. */
const props = defineProps<{ check: Check; who: string }>();
const emit = defineEmits<{ keep: [what: RecordEvent["what"], by: string]; close: [] }>();
const job = useJob();
const isLength = computed(() => props.check.quantity === "length");
const isLook = computed(() => props.check.quantity === "look" || props.check.judged === "yes");
const isText = computed(() => props.check.quantity === "lot");
const values = ref<string[]>([]);
const digits = ref("");
const part = ref(0);
const negative = ref(false);
const text = ref("");
const other = ref("");
const needsOther = computed(() => props.check.by === "other");
const by = computed(() => (needsOther.value ? other.value.trim() : props.who));
const isOther = computed(
  () => !needsOther.value || (by.value !== "" && by.value.toLowerCase() !== props.who.toLowerCase()),
);
/** What is being typed, as a decimal number; null where nothing is. */
const typed = computed(() => {
  if (digits.value === "" && part.value === 0) return null;
  if (isLength.value) return reading(Number(digits.value || "0"), part.value, negative.value);
  const value = digits.value.replace(/\.$/, "");
  return value === "" ? null : `${negative.value ? "-" : ""}${value}`;
});
const said = (v: string) => (isLength.value ? asInches(v) : `${v} ${props.check.unit}`);
const all = computed(() => (typed.value === null ? values.value : [...values.value, typed.value]));
const numbers = computed(() => all.value.map(Number));
const good = computed(() => (all.value.length === 0 ? null : fits(props.check, numbers.value)));
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
function press(key: string) {
  if (key === "." && (isLength.value || digits.value.includes("."))) return;
  if (digits.value.length < 6) digits.value += key;
}
function nextReading() {
  if (typed.value === null) return;
  values.value = [...values.value, typed.value];
  [digits.value, part.value, negative.value] = ["", 0, false];
}
function clear() {
  if (typed.value === null && !negative.value) values.value = values.value.slice(0, -1);
  [digits.value, part.value, negative.value] = ["", 0, false];
}
function keepReadings() {
  const { id, unit, asked } = props.check;
  emit(
    "keep",
    { is: "reading", check: id, values: all.value, unit, instrument: "", asked, good: good.value },
    by.value,
  );
}
const keys = ["7", "8", "9", "4", "5", "6", "1", "2", "3"];
const fractions = Array.from({ length: 16 }, (_, n) => n);
const fraction = (n: number) => (n === 0 ? "0" : asInches(`${n / 16}`).replace('"', ""));
</script>

<template>
  <section class="sheet" role="dialog" :aria-label="check.name" data-test="check-sheet">
    <header>
      <h2>{{ check.name }}</h2>
      <button class="plain" :aria-label="s.site.cancel" @click="emit('close')">✕</button>
    </header>
    <p class="asked">
      <b>{{ check.asked }}</b> {{ check.at }}
    </p>
    <label v-if="needsOther" class="other">
      {{ s.site.other }} <small>{{ s.site.otherHelp(who) }}</small>
      <input v-model="other" autocomplete="off" maxlength="60" data-test="other" />
    </label>
    <template v-if="isLook">
      <div class="two">
        <button
          class="yes"
          :disabled="!isOther"
          data-test="good"
          @click="emit('keep', { is: 'looked', check: check.id, good: true }, by)"
        >
          ✓ {{ s.site.good }}
        </button>
        <button
          class="no"
          :disabled="!isOther"
          data-test="bad"
          @click="emit('keep', { is: 'looked', check: check.id, good: false }, by)"
        >
          ✕ {{ s.site.bad }}
        </button>
      </div>
    </template>
    <template v-else-if="isText">
      <label class="other">
        {{ s.site.lot }}
        <input v-model="text" autocomplete="off" maxlength="120" data-test="lot" />
      </label>
      <button
        class="keep"
        :disabled="text.trim() === '' || !isOther"
        data-test="keep"
        @click="emit('keep', { is: 'lot', check: check.id, text: text.trim() }, by)"
      >
        {{ s.site.keep }}
      </button>
    </template>
    <template v-else>
      <ol class="values">
        <li v-for="(v, i) in all" :key="i" :class="{ off: judged?.worst === i }">{{ said(v) }}</li>
        <li v-for="n in Math.max(0, check.readings - all.length)" :key="`m${n}`" class="missing">
          {{ s.site.reading(all.length + n, check.readings) }}
        </li>
      </ol>
      <p class="says" :class="{ good: good === true, bad: good === false }" role="status" data-test="says">
        <template v-if="good === true">✓ </template><template v-else-if="good === false">✕ </template>{{ says }}
      </p>
      <div v-if="isLength" class="fractions" :aria-label="s.site.whole">
        <button
          v-for="n in fractions"
          :key="n"
          :class="{ on: part === n, small: n % 2 === 1 }"
          :aria-pressed="part === n"
          :data-fraction="n"
          @click="part = n"
        >
          {{ fraction(n) }}
        </button>
      </div>
      <div class="pad">
        <button v-for="k in keys" :key="k" :data-key="k" @click="press(k)">{{ k }}</button>
        <button
          :aria-label="s.site.minus"
          :aria-pressed="negative"
          :class="{ on: negative }"
          @click="negative = !negative"
        >
          −
        </button>
        <button data-key="0" @click="press('0')">0</button>
        <button v-if="isLength" :aria-label="s.site.clear" data-test="clear" @click="clear">⌫</button>
        <button v-else data-key="." @click="press('.')">.</button>
      </div>
      <div class="two">
        <button
          v-if="all.length < check.readings"
          class="keep"
          :disabled="typed === null"
          data-test="next-reading"
          @click="nextReading"
        >
          {{ s.site.next }}
        </button>
        <button class="keep" :disabled="all.length === 0 || !isOther" data-test="keep" @click="keepReadings">
          {{ s.site.keep }}
        </button>
      </div>
    </template>
  </section>
</template>

<style scoped>
.sheet {
  position: fixed;
  inset: 0;
  z-index: 20;
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 12px 14px;
  overflow-y: auto;
  background: var(--sheet);
}
header {
  display: flex;
  gap: 10px;
  align-items: start;
}
h2 {
  flex: 1;
  margin: 6px 0 0;
  font-size: 1.35rem;
}
.plain {
  min-width: 52px;
  min-height: 48px;
  border: 0;
  background: none;
}
.asked {
  margin: 0;
  font-size: 1.05rem;
}
.asked b {
  font-size: 1.3rem;
}
button {
  min-height: 52px;
  font: inherit;
  font-size: 1.2rem;
  font-weight: 650;
  color: var(--ink);
  background: var(--paper);
  border: 1.5px solid var(--ink);
  border-radius: 6px;
}
button:disabled {
  opacity: 0.4;
}
.on {
  color: var(--shell-ink);
  background: var(--shell);
}
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
  font-size: 0.9rem;
  font-weight: 400;
  border-style: dashed;
}
.values .off {
  background: var(--leak-soft);
  border-color: var(--leak);
}
.says {
  min-height: 1.4em;
  margin: 0;
  font-size: 1.15rem;
  font-weight: 650;
}
.good {
  color: var(--good);
}
.bad {
  color: var(--leak);
}
.fractions {
  display: grid;
  grid-template-columns: repeat(8, 1fr);
  gap: 4px;
}
.fractions button {
  min-height: 46px;
  padding: 0;
  font-size: 1rem;
}
.pad {
  display: grid;
  flex: 1;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
.two {
  display: flex;
  gap: 8px;
}
.two > * {
  flex: 1;
}
.keep,
.yes {
  min-height: 60px;
  color: var(--shell-ink);
  background: var(--shell);
}
.no {
  min-height: 60px;
}
.other {
  display: grid;
  gap: 4px;
  font-weight: 650;
}
.other small {
  font-weight: 400;
}
input {
  min-height: 52px;
  padding: 0 10px;
  font: inherit;
  font-size: 1.2rem;
  color: var(--ink);
  background: var(--paper);
  border: 1.5px solid var(--ink);
}
</style>
