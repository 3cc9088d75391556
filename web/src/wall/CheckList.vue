<script setup lang="ts">
import { computed } from "vue";
import type { Check } from "../api/client";
import { s } from "../strings";

/** What is measured or looked at: target, how it is judged, by whom, and the faults it guards against. */
const props = defineProps<{ checks: Check[] }>();
/** The same check at several actions of one step is told once, with how often. */
const told = computed(() => {
  const lines = new Map<string, { check: Check; times: number }>();
  for (const check of props.checks) {
    const key = `${check.check} ${check.asked}`;
    lines.set(key, { check, times: (lines.get(key)?.times ?? 0) + 1 });
  }
  return [...lines.values()];
});
</script>

<template>
  <ul class="checks" :aria-label="s.checks.title" data-test="checks">
    <li v-for="{ check: c, times } in told" :key="c.id" :data-check="c.check">
      <span class="what">
        <span>{{ c.name }}</span>
        <b v-if="c.asked">{{ c.asked }}</b>
        <span v-if="times > 1" class="times">× {{ times }}</span>
      </span>
      <small>
        {{ c.at }} · {{ s.checks.judged[c.judged](c.readings)
        }}<template v-if="c.by === 'other'"> · {{ s.checks.other }}</template
        ><template v-if="c.guards.length"> · {{ s.checks.guards(c.guards) }}</template>
      </small>
    </li>
  </ul>
</template>

<style scoped>
.checks {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 6px 0 6px 10px;
  border-left: 3px solid var(--good);
  margin-bottom: 6px;
}
.what {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
}
.times {
  color: var(--ink-soft);
}
small {
  color: var(--ink-soft);
  font-size: 0.82rem;
}
</style>
