import { expect, test } from "vitest";
import { addressesOf, instead, toTake } from "./along";
import { DRILLS } from "./practice";

test("some scenes of each drill are taken along, of the level that comes next, none twice running", () => {
  let n = 0;
  const all = toTake(
    (drill) => (drill === "find" ? 3 : 1),
    () => (n++ % 3) / 1e9,
  );
  expect(all.length).toBe(3 * DRILLS.length);
  expect(all.filter((x) => x.drill === "find").every((x) => x.level === 3)).toBe(true);
  expect(all.every((x, i) => i === 0 || x.drill !== all[i - 1]?.drill || x.seed !== all[i - 1]?.seed)).toBe(true);
  expect(addressesOf({ drill: "call", level: 2, seed: 7 })).toEqual([
    "/api/practice/scene?drill=call&level=2&seed=7",
    "/api/practice/sheet?drill=call&level=2&seed=7",
  ]);
});

test("without a signal the nearest level that is here is played, and not the same scene again", () => {
  const here = [
    { drill: "order" as const, level: 1, seed: 1 },
    { drill: "order" as const, level: 3, seed: 2 },
    { drill: "find" as const, level: 2, seed: 3 },
  ];
  expect(instead(here, "order", 4, null)?.seed).toBe(2);
  expect(instead(here, "order", 4, 2)?.seed).toBe(1);
  expect(instead(here, "call", 1, null)).toBeNull();
});
