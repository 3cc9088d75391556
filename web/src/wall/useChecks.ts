import { shallowRef, watch } from "vue";
import { api, type Check } from "../api/client";
import { newest } from "../lib/requests";
import { useJob } from "../stores/job";

/** The checks of one step, or of one opening, as the job is now. */
export function useChecks(of: () => { step: string } | { opening: string } | null) {
  const job = useJob();
  const checks = shallowRef<Check[]>([]);
  watch(
    () => [job.state?.id, job.state?.revision, JSON.stringify(of())] as const,
    async ([id]) => {
      const query = of();
      if (id === undefined || !query) return void (checks.value = []);
      const params = { path: { id }, query };
      const asked = (signal: AbortSignal) => api.GET("/api/jobs/{id}/checks", { params, signal });
      const found = await newest(`checks ${"step" in query ? "card" : "sheet"}`, asked).catch(() => []);
      if (found && id === job.state?.id) checks.value = found;
    },
    { immediate: true },
  );
  return checks;
}
