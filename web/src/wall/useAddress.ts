import { watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { chosenIn, queryOf, same, type Chosen } from "../lib/address";
import { useJob } from "../stores/job";

/** Keeps address and choice together: what is chosen can be gone back to, and an address that is opened chooses. */
export function useAddress(onOpened: (c: Chosen) => void) {
  const job = useJob();
  const route = useRoute();
  const router = useRouter();
  const chosen = (): Chosen => ({ place: job.openingId, step: job.chosen, finding: job.finding });
  let following = false;
  watch(
    () => [job.state?.id, route.query] as const,
    ([id]) => {
      if (id === undefined || route.name !== "wall") return;
      const wanted = chosenIn(route.query);
      if (same(wanted, chosen())) return;
      following = true;
      job.openingId = wanted.place;
      job.chosen = wanted.step;
      job.finding = wanted.finding;
      onOpened(wanted);
    },
    { immediate: true },
  );
  watch([() => job.openingId, () => job.chosen, () => job.finding], () => {
    if (following) return void (following = false);
    // A job that is just being opened has chosen nothing yet.
    if (route.name !== "wall" || job.state?.id !== Number(route.params.id)) return;
    const [now, before] = [chosen(), chosenIn(route.query)];
    if (same(now, before)) return;
    // Going along the findings is no way to go back.
    const way = now.place === before.place && now.step === before.step ? "replace" : "push";
    void router[way]({ query: queryOf(now) });
  });
}
