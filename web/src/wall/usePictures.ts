import { shallowRef, watch } from "vue";
import { api, type StepPicture } from "../api/client";
import { newest } from "../lib/requests";
import { useJob } from "../stores/job";

/** The pictures of one step, or of all steps at one opening, as the job is now, by the step. */
export function usePictures(of: () => { step: string; opening: string } | { opening: string } | null) {
  const job = useJob();
  const pictures = shallowRef(new Map<string, StepPicture>());
  watch(
    () => [job.state?.id, job.state?.revision, JSON.stringify(of())] as const,
    async ([id]) => {
      const query = of();
      if (id === undefined || !query) return void (pictures.value = new Map());
      const params = { path: { id }, query };
      const asked = (signal: AbortSignal) => api.GET("/api/jobs/{id}/pictures", { params, signal });
      const found = await newest(`pictures ${"step" in query ? "card" : "sheet"}`, asked).catch(() => []);
      if (found && id === job.state?.id) pictures.value = new Map(found.map((p) => [p.step, p]));
    },
    { immediate: true },
  );
  return pictures;
}
