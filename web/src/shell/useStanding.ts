import { useDocumentVisibility, useEventSource } from "@vueuse/core";
import { computed, shallowRef, watch } from "vue";
import { useRoute } from "vue-router";
import { useJob } from "../stores/job";

/** Whether what is on the screen is what the store has: `behind` where somebody else changed the job, `silent` where Kame does not answer. */
export function useStanding() {
  const job = useJob();
  const route = useRoute();
  const url = computed(() => (job.state ? `/api/jobs/${job.state.id}/changes` : undefined));
  const { data, event, status, open, close } = useEventSource<["standing", "record"], string>(
    url,
    ["standing", "record"] as const,
    {
      autoReconnect: { retries: -1, delay: 2000 },
    },
  );
  // A browser keeps few connections to one host: tabs that nobody looks at hold none of them.
  const visibility = useDocumentVisibility();
  watch(visibility, (now) => (now === "hidden" ? close() : open()));
  const there = shallowRef<{ revision: number; bench: number } | null>(null);
  watch(data, (told) => {
    if (event.value === "standing")
      there.value = told ? (JSON.parse(told) as { revision: number; bench: number }) : null;
    // What is written down at the wall is seen at once where the wall is shown as it is built.
    else if (event.value === "record" && job.built) void job.refresh();
  });
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
