import { beforeEach, expect, test, vi } from "vitest";
import { addressOf, instead, keepScenes, sameScene, scenesHere, toTake } from "./along";
import { DRILLS } from "./practice";

test("some scenes of each drill are taken along, of the level that comes next, none twice running", () => {
  let n = 0;
  const all = toTake(
    (drill) => (drill === "find" ? 3 : 1),
    () => (n++ % 3) / 1e9,
    null,
  );
  expect(all.length).toBe(3 * DRILLS.length);
  expect(all.filter((x) => x.drill === "find").every((x) => x.level === 3)).toBe(true);
  expect(all.every((x, i) => i === 0 || x.drill !== all[i - 1]?.drill || x.seed !== all[i - 1]?.seed)).toBe(true);
  const some = toTake(
    () => 2,
    () => 0.5,
    7,
    ["call"],
  );
  expect(some.map((x) => [x.drill, x.level, x.job])).toEqual(Array(3).fill(["call", 2, 7]));
  expect(addressOf({ drill: "call", level: 2, seed: 7, job: null })).toBe(
    "/api/practice/sheet?drill=call&level=2&seed=7",
  );
  expect(addressOf({ drill: "call", level: 2, seed: 7, job: 3 })).toBe(
    "/api/practice/sheet?drill=call&level=2&seed=7&job=3",
  );
});

test("without a signal the nearest level that is here is played, and not the same scene again", () => {
  const scene = (drill: "order" | "find" | "call", level: number, seed: number, job: number | null = null) => ({
    drill,
    level,
    seed,
    job,
  });
  const here = [scene("order", 1, 1), scene("order", 3, 2), scene("find", 2, 3), scene("order", 4, 9, 2)];
  expect(instead(here, scene("order", 4, 5))?.seed).toBe(2);
  expect(instead(here, scene("order", 4, 2))?.seed).toBe(1);
  expect(instead(here, scene("call", 1, 5))).toBeNull();
  // Another job's wall is no substitute.
  expect(instead(here, scene("order", 4, 5, 2))?.seed).toBe(9);
  expect(instead(here, scene("order", 4, 5, 3))).toBeNull();
});

const shelf = new Map<string, string>();
beforeEach(() => {
  shelf.clear();
  vi.stubGlobal("localStorage", {
    getItem: (key: string) => shelf.get(key) ?? null,
    setItem: (key: string, value: string) => shelf.set(key, value),
  });
});

test("scenes of one wall take the place of those of the same wall, and no device keeps too many", () => {
  const scene = (seed: number, job: number | null) => ({ drill: "call" as const, level: 1, seed, job });
  keepScenes([scene(1, null), scene(2, null)]);
  keepScenes([scene(1, 7)]);
  keepScenes([scene(3, null)], (x) => x.job === null);
  expect(scenesHere()).toEqual([scene(1, 7), scene(3, null)]);
  keepScenes([scene(3, null)]);
  expect(scenesHere().filter((x) => sameScene(x, scene(3, null)))).toHaveLength(1);
  keepScenes(Array.from({ length: 200 }, (_, n) => scene(n, 8)));
  expect(scenesHere()).toHaveLength(75);
  expect(scenesHere().at(-1)?.seed).toBe(199);
});
