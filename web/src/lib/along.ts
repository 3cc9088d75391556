import type { Drill, PracticeAnswer, SceneOf } from "../api/client";
import { DRILLS, nextSeed } from "./practice";

/** A scene that is on this device. */
export interface SceneHere {
  drill: Drill;
  level: number;
  seed: number;
}
/** An answer that waits for a signal. */
export interface WaitingAnswer {
  of: SceneOf;
  answer: PracticeAnswer;
  who: string | null;
}

/** So many scenes of each drill are taken along. */
const EACH = 3;
const ALONG = "kame-practice-along";
const WAITS = "kame-practice-waits";
/** No device keeps more answers that nobody took. */
const MOST_WAITING = 200;

function kept<T>(key: string): T[] {
  try {
    const all: unknown = JSON.parse(localStorage.getItem(key) ?? "[]");
    return Array.isArray(all) ? all : [];
  } catch {
    return [];
  }
}
const keep = (key: string, all: unknown[]) => localStorage.setItem(key, JSON.stringify(all));

export const scenesHere = () => kept<SceneHere>(ALONG);
export const keepScenes = (all: SceneHere[]) => keep(ALONG, all);
export const waitingAnswers = () => kept<WaitingAnswer>(WAITS);
export const keepWaiting = (all: WaitingAnswer[]) => keep(WAITS, all.slice(-MOST_WAITING));

/** Scenes to take along: some of each drill, of the level that comes next. */
export function toTake(next: (drill: Drill) => number, random: () => number): SceneHere[] {
  return DRILLS.flatMap((drill) => {
    const out: SceneHere[] = [];
    for (let i = 0; i < EACH; i++)
      out.push({ drill, level: next(drill), seed: nextSeed(out.at(-1)?.seed ?? null, random) });
    return out;
  });
}

/** What is asked for a scene, and for its sheet. */
export function addressesOf({ drill, level, seed }: SceneHere): string[] {
  const query = `drill=${drill}&level=${level}&seed=${seed}`;
  return [`/api/practice/scene?${query}`, `/api/practice/sheet?${query}`];
}

/** A scene on this device instead of one that cannot be had: of the same drill, of the nearest level, and not the last one. */
export function instead(here: SceneHere[], drill: Drill, level: number, last: number | null): SceneHere | null {
  const same = here.filter((x) => x.drill === drill && x.seed !== last);
  const away = (x: SceneHere) => Math.abs(x.level - level);
  return same.reduce<SceneHere | null>((best, x) => (best === null || away(x) < away(best) ? x : best), null);
}
