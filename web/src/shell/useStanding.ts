import { useDocumentVisibility, useEventSource } from "@vueuse/core";
import { computed, watch } from "vue";
import { useRoute } from "vue-router";
import { useJob } from "../stores/job";

/** Whether what is on the screen is what the store has: `behind` where somebody else changed the job, `silent` where Kame does not answer. */
export function useStanding() {
  const job = useJob();
  const route = useRoute();
  const url = computed(() => (job.state ? `/api/jobs/${job.state.id}/changes` : undefined));
  const { data, status, open, close } = useEventSource<["standing"], string>(url, ["standing"] as const, {
    autoReconnect: { retries: -1, delay: 2000 },
  });
  // A browser keeps few connections to one host: tabs that nobody looks at hold none of them.
  const visibility = useDocumentVisibility();
  watch(visibility, (now) => (now === "hidden" ? close() : open()));
  const there = computed(() => (data.value ? (JSON.parse(data.value) as { revision: number; bench: number }) : null));
  const behind = computed(() => {
    const [now, then] = [job.state, there.value];
    if (!now || !then || job.sending > 0) return false;
    return then.revision > now.revision || then.bench > now.bench;
  });
  /** Once it was open and is not. */
  const silent = computed(() => job.state !== null && status.value === "CLOSED");
  // Two people at one bench see each other's ticks.
  watch(behind, (so) => {
    if (so && route.name === "cut") void job.refresh();
  });
  return { behind, silent };
}
