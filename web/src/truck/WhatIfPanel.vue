<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";
import type { Booking } from "../api/client";
import { dateOf, dayOf } from "../lib/calendar";
import { s } from "../strings";
import type { WhatIf } from "./useWhatIf";

/** What is tried beside what stands: when it is done, what moves and why, what has to be known. */
const props = defineProps<{ tried: WhatIf; now: Booking; asking: boolean }>();
const emit = defineEmits<{ keep: []; drop: [] }>();
/** True where the other calendar is drawn whole, below this one. */
const both = defineModel<boolean>("both", { required: true });
/** More moves than this are counted. */
const MOST = 6;
const then = computed(() => props.tried.booking);
const moves = computed(() => then.value?.moved ?? []);
const dated = (minute: number) => dateOf(props.now.from, dayOf(minute));
/** What crews work, where that is another. Nobody has looked at the nights of what is only tried, so covering is in neither. */
const sayings = (b: Booking | null | undefined) => (b?.hours ?? []).map((h) => `${h.says}.`);
const worked = (b: Booking) => (sayings(props.now).join() === sayings(then.value).join() ? [] : sayings(b));
const warns = computed(() => (then.value?.warns ?? []).filter((w) => !props.now.warns.includes(w)));
</script>

<template>
  <section class="what-if" role="status" data-test="what-if">
    <h3>{{ tried.label }}</h3>
    <p v-if="tried.wrong" class="wrong" role="alert">{{ tried.wrong }}</p>
    <template v-else-if="then">
      <dl>
        <dt>{{ s.calendar.asItIs }}</dt>
        <dd>{{ [now.says, ...worked(now)].join(" ") }}</dd>
        <dt>{{ s.calendar.asTried }}</dt>
        <dd data-test="what-if-says">{{ [then.says, ...worked(then)].join(" ") }}</dd>
      </dl>
      <p v-if="moves.length === 0" class="quiet">{{ s.calendar.nothingMoves }}</p>
      <ul v-else>
        <li v-for="m in moves.slice(0, MOST)" :key="m.step">
          <b>{{ m.title }}</b><template v-if="m.place">, {{ m.place }}</template
          >: {{ dated(m.was) }} → {{ dated(m.from) }}. <span class="quiet">{{ m.why }}</span>
        </li>
        <li v-if="moves.length > MOST" class="quiet">{{ s.calendar.moreMove(moves.length - MOST) }}</li>
      </ul>
      <p v-for="w in warns" :key="w" class="warn">{{ w }}</p>
    </template>
    <label v-if="then" class="both"
      ><input v-model="both" type="checkbox" data-test="what-if-both" /> {{ s.calendar.bothWhole }}</label
    >
    <p v-if="then && !now.kept" class="quiet">{{ s.calendar.laidAnewThen }}</p>
    <p v-if="asking" class="quiet">{{ s.calendar.asking }}</p>
    <p class="buttons">
      <Button size="small" :label="s.calendar.keep" :disabled="!then" data-test="what-if-keep" @click="emit('keep')" />
      <Button
        size="small"
        severity="secondary"
        :label="s.calendar.leaveIt"
        data-test="what-if-drop"
        @click="emit('drop')"
      />
    </p>
  </section>
</template>

<style scoped>
.what-if {
  margin: 8px 0;
  padding: 8px 14px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 4px solid var(--focus);
}
h3 {
  margin: 0 0 4px;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 12px;
  margin: 0;
}
dd {
  margin: 0;
}
ul {
  margin: 6px 0;
  padding-left: 18px;
}
.both {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  min-height: 32px;
}
.buttons {
  display: flex;
  gap: 8px;
  margin: 6px 0 0;
}
.wrong,
.warn {
  margin: 6px 0;
  padding: 6px 10px;
  background: var(--glue-soft);
  border-left: 4px solid var(--glue);
}
.wrong {
  background: var(--leak-soft);
  border-color: var(--leak);
}
</style>
