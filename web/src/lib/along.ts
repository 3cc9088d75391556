import type { Drill, PracticeAnswer, SceneOf } from "../api/client";
import { DRILLS, nextSeed } from "./practice";

/** A scene that is on this device. */
export interface SceneHere {
  drill: Drill;
  level: number;
  seed: number;
  /** Number of the job on whose wall it is; null for a wall that never was. */
  job: number | null;
  /** Opened by its address: it was set for somebody, and stays. */
  set?: boolean;
}
/** An answer that waits for a signal. */
export interface WaitingAnswer {
  of: SceneOf;
  answer: PracticeAnswer;
  who: string | null;
  /** By which it is known where it is sent again. */
  id: string;
}

/** So many scenes of each drill are taken along. */
const EACH = 3;
const ALONG = "kame-practice-along";
const WAITS = "kame-practice-waits";
/** No device keeps more scenes: those of walls that never were and of a few jobs. */
const MOST_SCENES = 75;
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
export const sameScene = (a: SceneHere, b: SceneHere) =>
  a.drill === b.drill && a.level === b.level && a.seed === b.seed && a.job === b.job;
/** Keeps which scenes are on this device, beside those that are there already; `instead` are there no more. */
export function keepScenes(more: SceneHere[], instead: (x: SceneHere) => boolean = () => false) {
  const stay = scenesHere().filter((x) => !instead(x) && !more.some((m) => sameScene(m, x)));
  keep(ALONG, [...stay, ...more].slice(-MOST_SCENES));
}
export const waitingAnswers = () => kept<WaitingAnswer>(WAITS);
export const keepWaiting = (all: WaitingAnswer[]) => keep(WAITS, all.slice(-MOST_WAITING));

/** Scenes to take along: some of each of these drills, of the level that comes next. */
export function toTake(
  next: (drill: Drill) => number,
  random: () => number,
  job: number | null,
  drills: Drill[] = DRILLS,
): SceneHere[] {
  return drills.flatMap((drill) => {
    const out: SceneHere[] = [];
    for (let i = 0; i < EACH; i++)
      out.push({ drill, level: next(drill), seed: nextSeed(out.at(-1)?.seed ?? null, random), job });
    return out;
  });
}

/** Where a scene with what every answer to it gives is asked for. */
export function addressOf({ drill, level, seed, job }: SceneHere): string {
  return `/api/practice/sheet?drill=${drill}&level=${level}&seed=${seed}${job === null ? "" : `&job=${job}`}`;
}

/** A scene on this device instead of one that cannot be had: of the same drill and the same job, of the nearest level, and not the last one. */
export function instead(here: SceneHere[], wanted: SceneHere): SceneHere | null {
  const same = here.filter((x) => x.drill === wanted.drill && x.job === wanted.job && x.seed !== wanted.seed);
  const away = (x: SceneHere) => Math.abs(x.level - wanted.level);
  return same.reduce<SceneHere | null>((best, x) => (best === null || away(x) < away(best) ? x : best), null);
}
