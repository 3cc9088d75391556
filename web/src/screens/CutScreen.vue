<script setup lang="ts">
import Button from "primevue/button";
import Checkbox from "primevue/checkbox";
import { computed, onMounted, onUnmounted } from "vue";
import { useRoute, useRouter } from "vue-router";
import SizeText from "../fields/SizeText.vue";
import type { CutGroup } from "../api/client";
import ScreenBar from "../shell/ScreenBar.vue";
import RollBars from "../bench/RollBars.vue";
import { useShortcuts } from "../shell/useShortcuts";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
const route = useRoute();
const router = useRouter();
const back = () => router.push({ name: "wall", params: { id: String(route.params.id) } });
// The cut list comes only while it is looked at: nothing else waits for its nesting.
onMounted(() => {
  job.cuts = true;
  void job.refresh();
});
onUnmounted(() => (job.cuts = false));
const groups = computed(() => job.view?.cut_list ?? []);
const all = computed(() => groups.value.flatMap((g) => g.pieces));
/** The next piece to cut: groups in order, roll by roll. */
const next = computed(() => all.value.find((p) => !p.cut) ?? null);
function outcome(g: CutGroup) {
  if (!g.outcome) return s.cut.stock;
  if (g.outcome.is === "proved") return s.cut.proved;
  return g.outcome.is === "within" ? s.cut.within(g.outcome.rolls) : s.cut.heuristic;
}
useShortcuts({ c: () => void back(), Escape: () => void back() });
const print = () => window.print();
</script>

<template>
  <div>
    <ScreenBar :title="s.cut.title">
      <a class="csv" :href="`/api/jobs/${route.params.id}/cut-list.csv`">{{ s.cut.csv }}</a>
      <a :href="`/api/jobs/${route.params.id}/truck/labels.pdf`" data-test="labels">{{ s.cut.labels }}</a>
      <Button text :label="s.cut.print" @click="print" />
    </ScreenBar>
    <main v-if="job.view" class="page" data-test="cut-list">
      <p class="quiet">{{ s.cut.done(all.filter((p) => p.cut).length, all.length) }}</p>
      <p v-if="next" class="next" data-test="next-cut">
        <b>{{
          s.cut.nextCut(
            `${next.name}${next.opening ? ` · ${next.opening}` : ""}, ${next.length_text} × ${next.width_text}`,
            next.roll,
          )
        }}</b>
      </p>
      <p v-if="all.length === 0 && job.hasCuts">{{ s.cut.empty }}</p>
      <section v-for="g in groups" :key="g.product + g.stock_width">
        <h2>{{ g.product }}</h2>
        <p class="stock">
          <template v-if="g.outcome">
            <b>{{ s.cut.rolls(g.rolls, g.unit, g.stock_width, g.roll_length) }}</b> · {{ outcome(g) }} · {{ g.total }}
            {{ s.cut.total }}
            <span v-if="g.leftovers.length"> · {{ s.cut.left }} {{ g.leftovers.join(", ") }}</span>
          </template>
          <template v-else>{{ s.cut.stock }}</template>
        </p>
        <p v-if="g.remark" class="remark" role="alert">{{ g.remark }}</p>
        <RollBars v-if="g.bars.length" :bars="g.bars" :unit="g.unit" :next="next?.id ?? null" />
        <table>
          <thead>
            <tr>
              <th scope="col"><span class="visually-hidden">✓</span></th>
              <th scope="col" class="letter"></th>
              <th scope="col">{{ s.cut.piece }}</th>
              <th scope="col" class="size">{{ s.cut.size }}</th>
              <th scope="col" class="roll">{{ s.cut.units[g.unit] ?? g.unit }}</th>
              <th scope="col" class="no-print"></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in g.pieces" :key="p.id" :class="{ cut: p.cut }">
              <td>
                <Checkbox
                  v-if="job.mayChange && !p.spoiled"
                  :model-value="p.cut"
                  binary
                  :input-id="p.id"
                  :aria-label="p.name"
                  size="large"
                  @update:model-value="(v: boolean) => job.tick(p.id, v, p.roll)"
                />
              </td>
              <td class="letter">
                <b>{{ p.letter }}</b>
              </td>
              <td>
                <label :for="p.id"
                  >{{ p.name }}<span v-if="p.opening" class="quiet"> · {{ p.opening }}</span></label
                >
              </td>
              <td class="size"><SizeText :text="`${p.length_text} × ${p.width_text}`" /></td>
              <td class="roll">{{ p.roll || "" }}</td>
              <td class="no-print">
                <Button
                  v-if="job.mayChange && !p.spoiled"
                  size="small"
                  text
                  :label="s.cut.spoil"
                  :aria-label="s.cut.spoilIt(p.name)"
                  :data-spoil="p.id"
                  @click="job.change({ edit: 'spoil', piece: p.id, roll: p.roll || null }, p.name)"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </section>
    </main>
    <p v-else class="page" aria-busy="true">{{ s.wall.loading }}</p>
  </div>
</template>

<style scoped>
section {
  margin-top: 24px;
  break-inside: avoid;
}
h2 {
  font-size: 1.15rem;
}
.stock {
  margin: 2px 0 6px;
}
.next {
  padding: 8px 12px;
  font-size: 1.1rem;
  background: var(--sheet);
  border-left: 6px solid var(--ink);
}
.remark {
  padding: 6px 10px;
  border-left: 5px solid var(--leak);
  background: var(--leak-soft);
}
table {
  width: 100%;
  border-collapse: collapse;
  background: var(--sheet);
}
th {
  font-size: 0.82rem;
  font-weight: 600;
  text-align: left;
  color: var(--ink-soft);
}
th,
td {
  padding: 8px 10px;
  border-bottom: 1px solid var(--line);
}
td:first-child,
th:first-child {
  width: 44px;
}
.letter {
  width: 44px;
}
.letter b {
  display: inline-block;
  min-width: 26px;
  text-align: center;
  border: 1.5px solid var(--ink);
}
.size {
  text-align: right;
  white-space: nowrap;
}
td.size {
  font-size: 1.15rem;
  font-weight: 650;
}
.roll {
  width: 60px;
  text-align: right;
}
tr.cut label {
  text-decoration: line-through;
}
tr.cut td.size {
  font-weight: 400;
}
@media (max-width: 760px) {
  .roll {
    display: none;
  }
}
@media (max-width: 760px) {
  /* From which roll stands with the next cut and on the drawing. */
  .roll {
    display: none;
  }
  th,
  td {
    padding: 8px 4px;
  }
}
</style>
