<script setup lang="ts">
import Button from "primevue/button";
import { ref } from "vue";
import type { Phase, SiteSpec, Trade } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** Who works when, what comes when, and where the building stands. */
const props = defineProps<{ site: SiteSpec }>();
const emit = defineEmits<{ keep: [site: SiteSpec]; attempt: [site: SiteSpec]; close: [] }>();
const job = useJob();
const now = ref<SiteSpec>(JSON.parse(JSON.stringify(props.site)) as SiteSpec);
const trades: Trade[] = ["lead", "barrier", "window", "cladding"];
const usual = () => ({
  name: s.calendar.crew(now.value.crews.length + 1),
  trades: [...trades],
  people: 2,
  hours: [7, 15.5] as [number, number],
  weekends: false,
  off: [],
  overtime: 0,
});
// What was never said stands in its field as it is.
for (const c of now.value.crews) c.overtime ??= 0;
const numberOf = (e: Event) => {
  const text = (e.target as HTMLInputElement).value;
  return text === "" ? null : Number(text);
};
function turn(list: Trade[], t: Trade) {
  if (list.includes(t)) list.splice(list.indexOf(t), 1);
  else list.push(t);
}
const phases: Phase[] = ["barrier", "preparation", "unit", "flashing", "inside", "check", "cover"];
const numbers = ["latitude", "longitude", "utc_hours", "facing"] as const;
</script>

<template>
  <form class="site" data-test="site-form" @submit.prevent="emit('keep', now)">
    <label>{{ s.calendar.from }} <input v-model="now.from" type="date" required data-test="site-from" /></label>
    <fieldset v-for="(c, i) in now.crews" :key="i">
      <legend>{{ s.calendar.crew(i + 1) }}</legend>
      <label>{{ s.calendar.name }} <input v-model="c.name" maxlength="120" required /></label>
      <label
        >{{ s.calendar.people }}
        <input v-model.number="c.people" type="number" min="1" max="40" :data-test="`people-${i}`"
      /></label>
      <label
        >{{ s.calendar.begins }} <input v-model.number="c.hours[0]" type="number" min="0" max="24" step="0.25"
      /></label>
      <label
        >{{ s.calendar.ends }} <input v-model.number="c.hours[1]" type="number" min="0" max="24" step="0.25"
      /></label>
      <label
        >{{ s.calendar.overtime }}
        <input
          :value="c.overtime"
          type="number"
          min="0"
          max="4"
          step="0.25"
          :data-test="`overtime-${i}`"
          @change="c.overtime = numberOf($event) ?? 0"
      /></label>
      <label
        >{{ s.calendar.rate }}
        <input
          :value="c.rate ?? ''"
          type="number"
          min="0"
          max="10000"
          step="any"
          :data-test="`rate-${i}`"
          @change="c.rate = numberOf($event)"
      /></label>
      <span class="ticks">
        <label v-for="t in trades" :key="t" class="tick">
          <input type="checkbox" :checked="c.trades.includes(t)" @change="turn(c.trades, t)" /> {{ s.filter.trades[t] }}
        </label>
        <label class="tick"><input v-model="c.weekends" type="checkbox" /> {{ s.calendar.weekends }}</label>
      </span>
      <label
        >{{ s.calendar.off }}
        <input
          :value="(c.off ?? []).join(' ')"
          placeholder="2026-03-09 2026-03-10"
          @change="c.off = ($event.target as HTMLInputElement).value.split(/[\s,]+/).filter(Boolean)"
      /></label>
      <Button v-if="now.crews.length > 1" text size="small" :label="s.calendar.drop" @click="now.crews.splice(i, 1)" />
    </fieldset>
    <Button text size="small" :label="s.calendar.another" data-test="another-crew" @click="now.crews.push(usual())" />
    <fieldset>
      <legend>{{ s.calendar.deliveries }}</legend>
      <p v-for="(d, i) in now.deliveries ?? []" :key="i" class="row">
        <label>{{ s.calendar.what }} <input v-model="d.what" list="kame-comes" required maxlength="120" /></label>
        <label>{{ s.calendar.on }} <input v-model="d.on" type="date" required /></label>
        <Button text size="small" :label="s.calendar.drop" @click="now.deliveries?.splice(i, 1)" />
      </p>
      <datalist id="kame-comes">
        <option v-for="o in job.state?.job.openings ?? []" :key="o.id" :value="o.id">{{ o.name }}</option>
      </datalist>
      <Button
        text
        size="small"
        :label="s.calendar.anotherDelivery"
        data-test="another-delivery"
        @click="now.deliveries = [...(now.deliveries ?? []), { what: '', on: now.from }]"
      />
    </fieldset>
    <fieldset>
      <legend>{{ s.calendar.visits }}</legend>
      <p v-for="(v, i) in now.visits ?? []" :key="i" class="row">
        <label
          >{{ s.calendar.who }} <input v-model="v.name" required maxlength="120" :data-test="`visit-${i}`"
        /></label>
        <label>{{ s.calendar.on }} <input v-model="v.on" type="date" required /></label>
        <label
          >{{ s.calendar.before }}
          <select v-model="v.before">
            <option v-for="p in phases" :key="p" :value="p">{{ s.filter.phases[p] }}</option>
          </select></label
        >
        <label
          >{{ s.calendar.at }}
          <select :value="v.place ?? ''" @change="v.place = ($event.target as HTMLSelectElement).value || null">
            <option value="">{{ s.calendar.everywhere }}</option>
            <option v-for="o in job.state?.job.openings ?? []" :key="o.id" :value="o.id">
              {{ o.id }} {{ o.name }}
            </option>
          </select></label
        >
        <Button text size="small" :label="s.calendar.drop" @click="now.visits?.splice(i, 1)" />
      </p>
      <Button
        text
        size="small"
        :label="s.calendar.anotherVisit"
        data-test="another-visit"
        @click="now.visits = [...(now.visits ?? []), { name: '', on: now.from, before: 'cover' }]"
      />
    </fieldset>
    <fieldset>
      <legend>{{ s.calendar.deadlines }}</legend>
      <p v-for="(d, i) in now.deadlines ?? []" :key="i" class="row">
        <label
          >{{ s.calendar.whatIsAsked }} <input v-model="d.name" required maxlength="120" :data-test="`deadline-${i}`"
        /></label>
        <label>{{ s.calendar.by }} <input v-model="d.on" type="date" required :data-test="`deadline-on-${i}`" /></label>
        <label
          >{{ s.calendar.untilPhase }}
          <select
            :value="d.until ?? ''"
            @change="d.until = (($event.target as HTMLSelectElement).value || null) as Phase | null"
          >
            <option value="">{{ s.calendar.allWork }}</option>
            <option v-for="p in phases" :key="p" :value="p">{{ s.filter.phases[p] }}</option>
          </select></label
        >
        <label
          >{{ s.calendar.at }}
          <select :value="d.place ?? ''" @change="d.place = ($event.target as HTMLSelectElement).value || null">
            <option value="">{{ s.calendar.everywhere }}</option>
            <option v-for="o in job.state?.job.openings ?? []" :key="o.id" :value="o.id">
              {{ o.id }} {{ o.name }}
            </option>
          </select></label
        >
        <Button text size="small" :label="s.calendar.drop" @click="now.deadlines?.splice(i, 1)" />
      </p>
      <Button
        text
        size="small"
        :label="s.calendar.anotherDeadline"
        data-test="another-deadline"
        @click="now.deadlines = [...(now.deadlines ?? []), { name: '', on: now.from }]"
      />
    </fieldset>
    <label class="tick"
      ><input
        type="checkbox"
        :checked="now.daylight ?? true"
        data-test="daylight"
        @change="now.daylight = ($event.target as HTMLInputElement).checked"
      />
      {{ s.calendar.daylight }}</label
    >
    <fieldset>
      <legend>{{ s.calendar.stands }}</legend>
      <label v-for="f in numbers" :key="f"
        >{{ s.calendar.fields[f] }} <input v-model.number="now.stands[f]" type="number" step="any" required
      /></label>
    </fieldset>
    <p class="row">
      <Button type="submit" :label="s.calendar.keep" data-test="site-keep" />
      <Button severity="secondary" :label="s.calendar.attempt" data-test="site-attempt" @click="emit('attempt', now)" />
      <Button text :label="s.site.cancel" @click="emit('close')" />
    </p>
  </form>
</template>

<style scoped>
.site {
  display: grid;
  gap: 10px;
  margin: 10px 0;
  padding: 14px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
  border: 1px solid var(--line);
}
label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
input:not([type="checkbox"]) {
  min-height: 32px;
  max-width: 180px;
  padding: 0 6px;
  font: inherit;
  color: var(--ink);
  background: var(--paper);
  border: 1px solid var(--ink-soft);
}
input[type="number"] {
  width: 84px;
}
select {
  min-height: 32px;
  font: inherit;
}
.ticks {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 10px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin: 0;
}
</style>
