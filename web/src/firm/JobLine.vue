<script setup lang="ts">
import { computed } from "vue";
import type { FirmLine, JobSummary } from "../api/client";
import { locale } from "../lib/language";
import { s } from "../strings";
import VerdictMark from "../wall/VerdictMark.vue";

/** A job in a line: what is said of it, how far it has come, what comes next, and how it stands tonight. */
const props = defineProps<{ job: JobSummary; line: FirmLine | undefined }>();
defineEmits<{ open: [] }>();
const state = computed(() => props.line?.verdict ?? props.job.verdict);
const when = computed(() =>
  new Date(props.job.changed).toLocaleString(locale, {
    month: "short",
    day: "numeric",
    hour: "numeric",
    minute: "2-digit",
  }),
);
const share = computed(() => (props.line?.of ? Math.round((100 * props.line.done) / props.line.of) : 0));
const risk = computed(() => props.line?.tonight?.state !== undefined && props.line.tonight.state !== "dry");
</script>

<template>
  <div class="line">
    <div class="left">
      <button class="open" @click="$emit('open')">
        <b>{{ job.name }}</b>
        <span class="said" data-test="job-verdict">
          <template v-if="state"><VerdictMark :state="state" /> {{ s.verdict.says[state] }}</template
          ><span v-else class="quiet">{{ s.verdict.unknown }}</span>
        </span>
        <span class="quiet"
          >{{ job.wall }} · {{ s.jobs.openings(job.openings) }} · {{ s.jobs.changed }} {{ when }}</span
        >
      </button>
      <p v-if="job.follows" class="way">
        <RouterLink :to="{ name: 'start', params: { id: String(job.id) } }" data-test="follows">{{
          s.jobs.way(job.follows, line?.differs)
        }}</RouterLink>
      </p>
    </div>
    <div v-if="line" class="now" data-test="progress">
      <p class="steps">
        <span class="track" aria-hidden="true"><span :style="{ width: `${share}%` }" /></span>
        <span>{{ line.done ? s.jobs.steps(line.done, line.of) : s.jobs.notBegun(line.of) }}</span>
      </p>
      <p v-if="line.next && line.done">
        <span class="quiet">{{ s.jobs.next }}: </span>
        <RouterLink
          data-test="next"
          :to="{ name: 'wall', params: { id: String(job.id) }, query: { step: line.next.step } }"
          >{{ line.next.title
          }}<template v-if="line.next.place_name">, {{ line.next.place_name }}</template></RouterLink
        >
      </p>
      <p v-else-if="!line.next">{{ s.jobs.allDone }}</p>
      <p v-if="line.tonight" class="tonight" :class="{ risk }" data-test="tonight">
        {{ s.jobs.tonight[line.tonight.state] }}
        <small v-if="risk" class="put">{{ line.tonight.put[0] ?? line.tonight.why }}</small>
      </p>
      <p v-if="line.failed" class="failed" data-test="failed">{{ s.jobs.failed(line.failed) }}</p>
    </div>
  </div>
</template>

<style scoped>
.line {
  flex: 1 1 560px;
  display: grid;
  grid-template-columns: minmax(260px, 5fr) minmax(240px, 4fr);
  gap: 0 16px;
}
.open {
  display: grid;
  gap: 2px;
  align-content: start;
  padding: 12px 16px;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
}
.open:hover b {
  text-decoration: underline;
}
.open b {
  font-size: 1.1rem;
}
.now {
  display: grid;
  gap: 2px;
  align-content: start;
  padding: 12px 0;
}
.now p {
  margin: 0;
}
.steps {
  display: flex;
  gap: 8px;
  align-items: center;
}
.track {
  flex: 0 0 96px;
  height: 8px;
  background: var(--paper);
  border: 1px solid var(--ink-soft);
}
.track span {
  display: block;
  height: 100%;
  background: var(--good);
}
.tonight.risk {
  padding: 2px 8px;
  color: var(--glue);
  background: var(--glue-soft);
  border-left: 4px solid var(--glue);
}
.put {
  display: block;
  color: var(--ink);
}
.failed {
  color: var(--leak);
}
.way {
  margin: -4px 0 10px;
  padding-left: 16px;
  font-size: 0.88rem;
}
@media (max-width: 640px) {
  .line {
    grid-template-columns: 1fr;
    flex-basis: 100%;
  }
  .now {
    padding: 0 16px 10px;
  }
}
</style>
