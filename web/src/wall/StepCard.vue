<script setup lang="ts">
import { computed } from "vue";
import SizeText from "../fields/SizeText.vue";
import { useJob } from "../stores/job";
import { s } from "../strings";
import CheckList from "./CheckList.vue";
import StepPicture from "./StepPicture.vue";
import { useChecks } from "./useChecks";
import { usePictures } from "./usePictures";

const job = useJob();
const step = computed(() => {
  const steps = job.shown?.steps ?? [];
  const chosen = steps.find((x) => x.id === job.chosen);
  if (chosen) return chosen;
  const done = job.view?.done ?? 0;
  const begun = steps.filter((x) => !x.removed && x.starts < done);
  return begun[begun.length - 1] ?? null;
});
const checks = useChecks(() => (step.value ? { step: step.value.id } : null));
const pictures = usePictures(() => (step.value ? { step: step.value.id, opening: step.value.opening } : null));
const picture = computed(() => pictures.value.get(step.value?.id ?? ""));
/** The circle is told where the flap is lifted or dropped. */
const circles = computed(() => {
  const here = step.value;
  const flap = here?.actions.some((a) => a.label.startsWith("lift the") || a.label.startsWith("drop the"));
  const own = (c: string) => c.startsWith(`${here?.opening}: `);
  return flap ? (job.shown?.order.circles.filter(own) ?? []) : [];
});
const rows = computed(() => {
  const c = step.value?.card;
  if (!c) return [];
  return [
    { name: s.card.do, text: c.what },
    { name: s.card.over, text: c.over },
    { name: s.card.check, text: c.check },
    { name: s.card.why, text: c.why },
  ].filter((r) => r.text);
});
</script>

<template>
  <article class="card" data-test="card">
    <template v-if="step">
      <h2>{{ step.title }}</h2>
      <div v-if="picture" class="picture"><StepPicture :picture="picture" /></div>
      <ul v-if="step.cuts.length" class="cuts">
        <li v-for="(c, i) in step.cuts" :key="i">
          <b>{{ c.letter }}</b>
          <span>{{ c.name }}</span>
          <strong v-if="c.size"><SizeText :text="c.size" /></strong>
        </li>
      </ul>
      <dl>
        <template v-for="r in rows" :key="r.name">
          <dt>{{ r.name }}</dt>
          <dd><SizeText :text="r.text" /></dd>
        </template>
      </dl>
      <CheckList v-if="checks.length && checks[0]?.step === step.id" :checks="checks" />
      <p v-if="step.card.caution" class="caution">
        <b>{{ s.card.caution }}</b> {{ step.card.caution }}
      </p>
      <p v-for="t in step.primes" :key="t" class="prime" data-test="prime">{{ s.card.prime }} {{ t }}</p>
      <p v-for="w in step.waits" :key="w.after + w.hours" class="caution" data-test="cure-wait">
        <b>{{ s.card.wait(w.hours, w.after) }}</b> {{ w.because }}
      </p>
      <section v-if="job.tonight" class="night" data-test="night-card">
        <h3>{{ s.night.title }}: {{ s.night.state[job.tonight.state] }}</h3>
        <p v-if="job.tonight.why">{{ job.tonight.why }}</p>
        <p v-for="(p, i) in job.tonight.put" :key="i">
          <b>{{ p }}</b>
        </p>
        <p v-if="job.tonight.state !== 'dry' && job.tonight.or_go_on">{{ s.night.or(job.tonight.or_go_on) }}</p>
      </section>
      <p v-for="(c, i) in circles" :key="`c${i}`" class="quiet">{{ c }}</p>
      <ul class="actions" :aria-label="s.card.actions">
        <li
          v-for="a in step.actions"
          :key="a.id"
          :class="{ done: a.number > 0 && a.number <= (job.view?.done ?? 0), removed: a.removed }"
        >
          <span>{{ a.label }}</span>
          <button
            v-if="job.mayChange && a.seals_top"
            :aria-label="`${s.rail.notNeeded}: ${a.label}`"
            data-test="unseal-top"
            @click="job.change({ edit: 'seal_top', piece: a.seals_top, so: false }, a.label)"
          >
            {{ s.rail.notNeeded }}
          </button>
          <button
            v-else-if="job.mayChange && !step.removed && step.actions.length > 1"
            :aria-label="`${a.removed ? s.rail.putBack : s.rail.leaveOut}: ${a.label}`"
            @click="job.change({ edit: a.removed ? 'restore_step' : 'remove_step', step: a.id }, a.label)"
          >
            {{ a.removed ? s.rail.putBack : s.rail.leaveOut }}
          </button>
        </li>
      </ul>
    </template>
    <p v-else>{{ s.card.start }}</p>
  </article>
</template>

<style scoped>
.card {
  padding: 12px 16px 20px;
}
h2 {
  font-size: 1.25rem;
  margin-bottom: 8px;
}
.picture {
  height: 190px;
  margin: 0 0 10px;
  border: 1px solid var(--line);
  background: var(--wall);
}
.picture > * {
  height: 100%;
}
.cuts {
  margin: 0 0 10px;
  padding: 0;
  list-style: none;
}
.cuts li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
.cuts b {
  flex: none;
  min-width: 24px;
  text-align: center;
  border: 1.5px solid var(--ink);
}
.cuts span {
  flex: 1;
}
.cuts strong {
  font-size: 1.1rem;
  white-space: nowrap;
}
dl {
  margin: 0;
  display: grid;
  grid-template-columns: 56px 1fr;
  gap: 8px 10px;
}
dt {
  font-weight: 650;
}
dd {
  margin: 0;
}
.caution {
  margin-top: 12px;
  padding: 8px 10px;
  border: 2px solid var(--glue);
  background: var(--glue-soft);
  color: var(--ink);
}
.night {
  margin-top: 12px;
  padding: 8px 10px;
  border: 2px solid var(--ink-soft);
}
.night h3 {
  font-size: 1rem;
}
.actions {
  margin: 14px 0 0;
  padding: 0;
  list-style: none;
  font-size: 0.9rem;
}
.actions li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 3px 0;
}
.actions li::before {
  content: "○";
}
.actions li.done::before {
  content: "●";
}
.actions li.removed::before {
  content: "–";
}
.actions span {
  flex: 1;
}
.actions .removed span {
  text-decoration: line-through;
}
.actions button {
  font: inherit;
  color: var(--ink-soft);
  text-decoration: underline;
  background: none;
  border: 0;
  cursor: pointer;
}
</style>
