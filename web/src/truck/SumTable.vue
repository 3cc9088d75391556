<script setup lang="ts">
import Select from "primevue/select";
import { computed } from "vue";
import type { By, Truck } from "../api/client";
import { s } from "../strings";
import FileLinks from "../fields/FileLinks.vue";
import { dateOf } from "../lib/calendar";

/** What is used, summed up by opening, wall, phase, trade or day; and what is covered beside what is bought. */
const props = defineProps<{ truck: Truck }>();
const by = defineModel<By>("by", { required: true });
const ways = (Object.keys(s.truck.by) as By[]).map((value) => ({ value, label: s.truck.by[value] }));
const groups = computed(() => [...new Set(props.truck.sums.map((x) => x.group))]);
const words: Record<string, string> = { ...s.filter.phases, ...s.filter.trades };
function title(group: string) {
  if (by.value === "day") return { done: s.truck.done, waits: s.truck.waits }[group] ?? dateOf(group, 0);
  return words[group] ?? (group || s.truck.noOpening);
}
const areas = computed(() => props.truck.order.lines.filter((l) => l.bought_ft2 > 0));
</script>

<template>
  <div data-test="sums">
    <p class="row">
      <Select
        v-model="by"
        size="small"
        :options="ways"
        option-label="label"
        option-value="value"
        :aria-label="s.truck.sumBy"
        data-test="sum-by"
      />
      <FileLinks of="quantities" :endings="['csv', 'xlsx']" :query="`?by=${by}`" />
    </p>
    <table>
      <tbody v-for="g in groups" :key="g" :data-group="g">
        <tr>
          <th colspan="3" scope="rowgroup">{{ title(g) }}</th>
        </tr>
        <tr v-for="x in truck.sums.filter((y) => y.group === g)" :key="x.product">
          <td>{{ x.product }}</td>
          <td>{{ x.amount }}</td>
          <td class="quiet">{{ s.truck.places(x.uses) }}</td>
        </tr>
      </tbody>
    </table>
    <h2>{{ s.truck.areas }}</h2>
    <table data-test="areas">
      <thead>
        <tr>
          <th scope="col">{{ s.truck.product }}</th>
          <th scope="col">{{ s.truck.covered }}</th>
          <th scope="col">{{ s.truck.bought }}</th>
          <th scope="col">{{ s.truck.left }}</th>
          <th scope="col">{{ s.truck.handling }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in areas" :key="l.product">
          <td>{{ l.called }}</td>
          <td>{{ l.covered_ft2.toFixed(0) }} ft²</td>
          <td>{{ l.bought_ft2.toFixed(0) }} ft²</td>
          <td>{{ l.left }}</td>
          <td>{{ l.handling || "–" }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: center;
  margin: 10px 0;
}
h2 {
  margin: 20px 0 6px;
  font-size: 1.1rem;
}
table {
  width: 100%;
  background: var(--sheet);
  border-collapse: collapse;
}
th {
  padding: 10px 8px 4px;
  text-align: left;
}
td {
  padding: 4px 8px;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
</style>
