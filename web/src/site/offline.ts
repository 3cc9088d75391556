import { language } from "../lib/language";

/** Places that are taken along at most: a phone keeps the job in hand, not a town. */
const MOST = 60;
let registered: Promise<ServiceWorkerRegistration | null> | null = null;

/** The worker that answers where nobody else does. Without one (an old browser, a plain address) everything works while there is a signal. */
function worker() {
  registered ??=
    "serviceWorker" in navigator
      ? navigator.serviceWorker.register("/offline.js").then(
          () => navigator.serviceWorker.ready,
          () => null,
        )
      : Promise.resolve(null);
  return registered;
}

/** Puts the program as far as it is loaded, and answers to some addresses, where they are found without a signal; which of them could not be had. */
export async function keepHere(name: string, data: string[], taken: (missing: string[]) => void) {
  const ready = await worker();
  if (!ready?.active) return;
  const told = (e: MessageEvent<{ kept?: string; missing?: string[] }>) => {
    if (e.data?.kept !== name) return;
    navigator.serviceWorker.removeEventListener("message", told);
    taken(e.data.missing ?? []);
  };
  navigator.serviceWorker.addEventListener("message", told);
  const seen = performance.getEntriesByType("resource").map((e) => e.name);
  const program = seen.filter((url) => url.startsWith(`${location.origin}/assets/`));
  ready.active.postMessage({ job: name, program: ["/", ...program], data, language });
}

/** Puts the program, the job and the cards of its places where they are found without a signal. */
export async function takeAlong(job: number, places: string[], taken: () => void) {
  // What else is opened at the wall is fetched now, so that it is among what is taken along.
  await Promise.allSettled([import("../screens/WalkScreen.vue"), import("jsqr")]);
  const at = (what: string) =>
    ["", ...places.slice(0, MOST)].map((p) => `/api/jobs/${job}/${what}?opening=${encodeURIComponent(p)}`);
  const data = [
    `/api/jobs/${job}`,
    `/api/jobs/${job}/stands`,
    `/api/jobs/${job}/walk`,
    ...at("checks"),
    ...at("pictures"),
    // What a test with water is held against.
    ...at("expected"),
  ];
  await keepHere(`${job}`, data, taken);
}
