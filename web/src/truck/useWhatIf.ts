import { ref, shallowRef, type Ref } from "vue";
import { api, sentence, type Booking, type CalendarAnswer, type Edit, type SiteSpec } from "../api/client";
import { keptOf } from "../lib/calendar";
import { s } from "../strings";

/** What would come of another day, crew or delivery, or of building it another way: laid beside the calendar that is shown, and not kept. */
export interface WhatIf {
  /** What is tried, in words. */
  label: string;
  site: SiteSpec;
  /** What would be changed in the job itself. */
  change: Edit | null;
  /** `null` until the answer is there. */
  booking: Booking | null;
  wrong: string;
}

type Tried = Pick<WhatIf, "label" | "site" | "change">;

/** Pulling asks again for each day that is passed; only the last one asked for is waited for. */
const PAUSE_MS = 120;

export function useWhatIf(
  id: () => number | undefined,
  shown: Ref<CalendarAnswer | null>,
  weather: Ref<string | null>,
) {
  const tried = shallowRef<WhatIf | null>(null);
  const asking = ref(false);
  let turn = 0;
  let waits: ReturnType<typeof setTimeout> | undefined;

  async function ask(mine: number, what: Tried, quick: boolean) {
    const [job, now] = [id(), shown.value];
    if (job === undefined || !now) return;
    try {
      const { data, error } = await api.POST("/api/jobs/{id}/calendar", {
        params: { path: { id: job } },
        body: {
          site: { ...what.site, kept: keptOf(now.booking) },
          weather: weather.value,
          anew: false,
          quick,
          change: what.change,
        },
      });
      if (mine !== turn) return;
      tried.value = {
        ...what,
        booking: data?.booking ?? null,
        wrong: data ? "" : sentence(error, s.calendar.silent),
      };
    } catch {
      if (mine === turn) tried.value = { ...what, booking: null, wrong: s.calendar.silent };
    }
    if (mine === turn) asking.value = false;
  }
  function begin(what: Tried, quick: boolean, pause: number) {
    const mine = ++turn;
    clearTimeout(waits);
    asking.value = true;
    tried.value = { ...what, booking: tried.value?.booking ?? null, wrong: "" };
    waits = setTimeout(() => void ask(mine, what, quick), pause);
  }
  /** Near enough at once, for something that is being pulled. */
  const pull = (label: string, site: SiteSpec) => begin({ label, site, change: null }, true, PAUSE_MS);
  /** As it would really be laid. */
  const attempt = (label: string, site: SiteSpec, change: Edit | null = null) =>
    begin({ label, site, change }, false, 0);
  function drop() {
    turn += 1;
    clearTimeout(waits);
    [tried.value, asking.value] = [null, false];
  }
  return { tried, asking, pull, attempt, drop };
}
