import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";
import { api, type StepsOfDay } from "../api/client";
import { wallsOf, type WallOf } from "../lib/building";
import { newest } from "../lib/requests";
import { useJob } from "./job";

/** The walls of the open job with their places, as they stand at the moment shown. */
export const useBuilding = defineStore("building", () => {
  const job = useJob();
  const names = computed(() => new Map((job.state?.job.openings ?? []).map((o) => [o.id, o.name])));
  /** Which steps are done on which day; asked for once somebody wants to see days. */
  const days = shallowRef<StepsOfDay[] | null>(null);
  const wantsDays = ref(false);
  watch(
    [() => job.state?.id, () => job.state?.revision, wantsDays],
    async ([id], [before]) => {
      if (id !== before) days.value = null;
      if (id === undefined || !wantsDays.value) return;
      const params = { path: { id } };
      // Without them places say what comes next, and not when.
      const found = await newest("days", (signal) => api.GET("/api/jobs/{id}/days", { params, signal })).catch(
        () => undefined,
      );
      if (found && id === job.state?.id) days.value = found;
    },
    { immediate: true },
  );
  const walls = computed<WallOf[]>((before) => (job.shown ? wallsOf(job.shown, names.value, days.value, before) : []));
  return { names, days, wantsDays, walls };
});
