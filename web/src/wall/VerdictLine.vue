<script setup lang="ts">
import { computed } from "vue";
import type { Verdict } from "../api/client";
import { verdictOf } from "../lib/verdict";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** The verdict on the wall as it stands; opened, the least head of every water and what leans on glue. */
const job = useJob();
const verdict = computed<Verdict | null>(() => job.view?.verdict ?? null);
const said = computed(() => (verdict.value ? verdictOf(verdict.value) : null));
/** A row for each water, with the glue holding and lost. */
const rows = computed(() => {
  const heads = verdict.value?.heads ?? [];
  return [...new Set(heads.map((h) => h.scenario))].map((scenario) => {
    const of = (glue: "holds" | "lost") => heads.find((h) => h.scenario === scenario && h.glue === glue);
    return { scenario, name: of("holds")?.name ?? "", cells: [of("holds"), of("lost")] };
  });
});
</script>

<template>
  <details v-if="said && verdict" class="verdict" :class="said.kind">
    <summary data-test="verdict" aria-live="polite">
      <span aria-hidden="true">{{ said.mark }}</span> <b>{{ said.text }}</b><template v-if="said.more">
        · {{ said.more }}</template
      >
    </summary>
    <table data-test="heads">
      <thead>
        <tr>
          <th scope="col">{{ s.verdict.water }}</th>
          <th scope="col">{{ s.verdict.holds }}</th>
          <th scope="col">{{ s.verdict.lost }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.scenario">
          <th scope="row">{{ r.name }}</th>
          <td v-for="(c, i) in r.cells" :key="i" :class="{ under: c?.head && c.head.inches < c.floor }">
            <template v-if="c?.head">{{ s.verdict.head(c.head.inches, c.head.wind) }}</template>
            <template v-else>{{ s.verdict.noWay }}</template>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="quiet">{{ s.verdict.model }}</p>
    <template v-if="verdict.leans.length">
      <p>{{ s.verdict.leansOn }}</p>
      <ul data-test="leans">
        <li v-for="l in verdict.leans" :key="l.says" :class="{ odd: !l.usual }">
          {{ l.says }} <span class="quiet">{{ s.verdict.places(l.places) }}</span>
          <b v-if="!l.usual"> {{ s.verdict.odd }}</b>
        </li>
      </ul>
    </template>
  </details>
</template>

<style scoped>
.verdict {
  margin-top: 6px;
  max-height: 42vh;
  overflow-y: auto;
  padding: 4px 10px;
  border-left: 6px solid var(--line);
}
summary {
  cursor: pointer;
}
table {
  margin: 8px 0 4px;
  border-collapse: collapse;
}
th,
td {
  padding: 3px 14px 3px 0;
  text-align: left;
  font-weight: 400;
}
thead th {
  font-size: 0.85rem;
  color: var(--ink-soft);
}
.under {
  font-weight: 650;
  color: var(--water);
}
ul {
  margin: 0 0 6px;
  padding-left: 18px;
}
.verdict.good {
  color: var(--good);
  background: var(--good-soft);
  border-color: var(--good);
}
.verdict.glue {
  background: var(--good-soft);
  border-left-style: dashed;
  border-color: var(--glue);
}
.verdict.bad {
  color: var(--leak);
  background: var(--leak-soft);
  border-color: var(--leak);
}
.verdict table,
.verdict ul,
.verdict p {
  color: var(--ink);
}
</style>
