<script setup lang="ts">
import Message from "primevue/message";
import type { Day, Truck } from "../api/client";
import { s } from "../strings";
import FileLinks from "../fields/FileLinks.vue";

/** What goes on the truck on each day of the calendar: what is loaded, what runs out, what to order by when, what must not stay out at night. */
defineProps<{ truck: Truck }>();
/** Steps of the same title on one day are one line, with where. */
function lines(day: Day) {
  const out = new Map<string, { title: string; at: string[]; minutes: number }>();
  for (const x of day.steps) {
    const line = out.get(x.title) ?? { title: x.title, at: [], minutes: 0 };
    if (x.opening && !line.at.includes(x.opening)) line.at.push(x.opening);
    line.minutes += x.minutes;
    out.set(x.title, line);
  }
  return [...out.values()];
}
const hours = (minutes: number) => (minutes / 60).toFixed(1);
</script>

<template>
  <div data-test="days">
    <p>
      <b>{{ s.truck.inDays(truck.days.days.length) }}</b>: {{ truck.days.who }}
    </p>
    <p class="quiet">{{ s.truck.daysHelp }}</p>
    <FileLinks of="loads" :endings="['csv', 'xlsx']" />
    <Message v-for="x in truck.days.shortages" :key="x" severity="warn" data-test="shortage">{{ x }}</Message>
    <section v-if="truck.days.buy.length" data-test="buy-by">
      <h2>{{ s.truck.buyBy }}</h2>
      <ul>
        <li v-for="x in truck.days.buy" :key="x.product" :class="{ short: x.late }">
          <b>{{ x.called }}</b> <span class="quiet">{{ x.what }}</span> · {{ x.says }}
        </li>
      </ul>
      <p class="quiet">{{ s.truck.buyHelp }}</p>
    </section>
    <section v-for="d in truck.days.days" :key="d.on" :data-day="d.on">
      <h2>
        {{ d.said }} <small class="apart">{{ s.truck.hoursOf(hours(d.minutes)) }}</small>
      </h2>
      <p v-for="w in d.indoors" :key="w" class="wait" data-test="indoors">{{ w }}</p>
      <details v-if="d.waits.length">
        <summary>{{ s.truck.cures(d.waits.length) }}</summary>
        <p v-for="w in d.waits" :key="w" class="wait">{{ w }}</p>
      </details>
      <div class="both">
        <div>
          <h3>{{ s.truck.load }}</h3>
          <p v-if="!d.loads.length" class="quiet">{{ s.truck.nothingToLoad }}</p>
          <ul>
            <li v-for="(l, i) in d.loads" :key="i" :class="{ short: l.short > 0 && l.held > 0 }">
              <b>{{ l.count }} ×</b> {{ l.called }} <span class="quiet">{{ l.size }}</span>
              <small v-if="l.held"> · {{ s.truck.held(l.held) }}</small>
              <small v-if="l.short && l.held"> · {{ s.truck.toBuy(l.short) }}</small>
            </li>
          </ul>
        </div>
        <div>
          <h3>{{ s.truck.work }}</h3>
          <ul>
            <li v-for="x in lines(d)" :key="x.title">
              {{ x.title }}<span v-if="x.at.length" class="quiet"> · {{ x.at.join(", ") }}</span>
              <small class="apart">{{ s.truck.minutes(Math.round(x.minutes)) }}</small>
            </li>
          </ul>
        </div>
      </div>
    </section>
  </div>
</template>

<style scoped>
section {
  margin-top: 18px;
  break-inside: avoid;
}
h2 {
  font-size: 1.1rem;
  border-bottom: 1.5px solid var(--ink);
}
h3 {
  margin-top: 6px;
  font-size: 0.92rem;
}
small {
  color: var(--ink-soft);
}
.apart {
  margin-left: 8px;
}
.both {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(280px, 1fr));
  gap: 4px 24px;
}
ul {
  margin: 2px 0 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
li.short {
  padding-left: 8px;
  border-left: 5px solid var(--glue);
}
.wait {
  margin-top: 6px;
  padding: 4px 8px;
  background: var(--glue-soft);
  border-left: 5px solid var(--glue);
}
</style>
