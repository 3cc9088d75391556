<script setup lang="ts">
import { computed, ref } from "vue";
import { asInches, reading } from "../lib/site";
import { s } from "../strings";

/** Numbers in one hand: inches with sixteenths, or decimal. Says what is typed as a decimal number in text, null where nothing is. */
const props = defineProps<{ inches: boolean }>();
const emit = defineEmits<{ typed: [value: string | null]; back: [] }>();
const digits = ref("");
const part = ref(0);
const negative = ref(false);
const typed = computed(() => {
  if (digits.value === "" && part.value === 0) return null;
  if (props.inches) return reading(Number(digits.value || "0"), part.value, negative.value);
  const value = digits.value.replace(/\.$/, "");
  return value === "" ? null : `${negative.value ? "-" : ""}${value}`;
});
const say = () => emit("typed", typed.value);
function press(key: string) {
  if (key === "." && (props.inches || digits.value.includes("."))) return;
  if (digits.value.length < 6) digits.value += key;
  say();
}
function choose(n: number) {
  part.value = n;
  say();
}
function turn() {
  negative.value = !negative.value;
  say();
}
/** Begins another number; the one that was typed stays where it was put. */
function wipe() {
  [digits.value, part.value, negative.value] = ["", 0, false];
}
function clear() {
  if (typed.value === null && !negative.value) return emit("back");
  wipe();
  say();
}
defineExpose({ wipe });
const keys = ["7", "8", "9", "4", "5", "6", "1", "2", "3"];
const fractions = Array.from({ length: 16 }, (_, n) => n);
const fraction = (n: number) => (n === 0 ? "0" : asInches(`${n / 16}`).replace('"', ""));
</script>

<template>
  <div class="keypad">
    <div v-if="inches" class="fractions" role="group" :aria-label="s.site.fractions">
      <button
        v-for="n in fractions"
        :key="n"
        type="button"
        :class="{ on: part === n }"
        :aria-pressed="part === n"
        :data-fraction="n"
        @click="choose(n)"
      >
        {{ fraction(n) }}
      </button>
    </div>
    <div class="pad">
      <button v-for="k in keys" :key="k" type="button" :data-key="k" @click="press(k)">{{ k }}</button>
      <button type="button" :aria-label="s.site.minus" :aria-pressed="negative" :class="{ on: negative }" @click="turn">
        −
      </button>
      <button type="button" data-key="0" @click="press('0')">0</button>
      <button v-if="!inches" type="button" data-key="." @click="press('.')">.</button>
      <button type="button" class="back" :aria-label="s.site.clear" data-test="clear" @click="clear">⌫</button>
    </div>
  </div>
</template>

<style scoped>
.keypad {
  display: grid;
  gap: 6px;
}
.fractions {
  display: grid;
  grid-template-columns: repeat(8, 1fr);
  gap: 4px;
}
.fractions button {
  min-height: 44px;
  padding: 0;
  font-size: 1rem;
}
.pad {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
/* Where there is a point, wiping has a row of its own. */
.back:nth-child(13) {
  grid-column: 1 / -1;
}
.pad button {
  min-height: 45px;
}
</style>
