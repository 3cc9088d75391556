<script setup lang="ts">
import Button from "primevue/button";
import type { Proposal } from "../api/client";
import { kindOf } from "../lib/verdict";
import { s } from "../strings";
import StepPicture from "./StepPicture.vue";
import VerdictMark from "./VerdictMark.vue";

/** One way of mending what was found: what is laid, what it leans on, what it takes. */
defineProps<{ proposal: Proposal; number: number; busy: boolean }>();
defineEmits<{ take: [] }>();
</script>

<template>
  <li class="proposal" :class="proposal.as_before ? 'good' : kindOf(proposal.after.state)" data-test="proposal">
    <h3>
      <span class="number">{{ number }}</span> {{ proposal.title }}
    </h3>
    <StepPicture v-if="proposal.picture" :picture="proposal.picture" class="small" />
    <p class="state">
      <template v-if="proposal.as_before"
        ><span class="mark" aria-hidden="true">✓</span> <b>{{ s.repair.asBefore }}</b></template
      >
      <template v-else
        ><VerdictMark :state="proposal.after.state" /> <b>{{ proposal.after.says }}</b></template
      >
      <span v-if="proposal.after.state >= 5 && proposal.leans.length" class="rain">{{
        s.repair.rain(proposal.after.rain ?? null, proposal.after.rain_lost ?? null)
      }}</span>
    </p>
    <div v-if="proposal.leans.length" class="leans">
      <b>{{ s.repair.leans }}</b>
      <p v-for="(l, i) in proposal.leans.slice(0, 2)" :key="i">{{ l }}</p>
    </div>
    <p v-else class="free">{{ s.repair.noGlue }}</p>
    <p v-if="proposal.taken_off">{{ s.repair.opened(proposal.taken_off, proposal.opened) }}</p>
    <ul v-if="proposal.pieces.length" class="pieces">
      <li v-for="p in proposal.pieces" :key="p.name">
        <b>{{ p.size }}</b> {{ p.product.toLowerCase() }}
      </li>
    </ul>
    <p class="takes">
      {{ s.repair.takes(proposal.minutes, proposal.ft2)
      }}<template v-if="proposal.least_f != null"> · {{ s.repair.coldest(proposal.least_f) }}</template>
    </p>
    <Button :label="s.repair.take" :disabled="busy" class="take" data-test="take-repair" @click="$emit('take')" />
  </li>
</template>

<style scoped>
.proposal {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 12px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-top: 5px solid var(--leak);
}
.proposal.good {
  border-top-color: var(--good);
}
.proposal.glue {
  border-top-color: var(--glue);
}
h3 {
  display: flex;
  gap: 8px;
  margin: 0;
  font-size: 1.05rem;
}
.number {
  flex: none;
  width: 26px;
  height: 26px;
  line-height: 26px;
  text-align: center;
  color: var(--shell-ink);
  background: var(--shell);
  border-radius: 50%;
}
p {
  margin: 0;
}
.small {
  height: 190px;
  border: 1px solid var(--line);
}
.mark {
  font-weight: 700;
  color: var(--good);
}
.rain {
  display: block;
  color: var(--ink-soft);
}
.leans {
  padding-left: 10px;
  border-left: 4px dashed var(--glue);
}
.free {
  padding-left: 10px;
  border-left: 4px solid var(--good);
}
.pieces {
  margin: 0;
  padding: 0;
  list-style: none;
}
.takes {
  font-weight: 650;
}
.take {
  min-height: 48px;
  margin-top: auto;
}
</style>
