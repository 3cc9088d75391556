import { expect, it } from "vitest";
import { Kept } from "./kept";

it("keeps what was used last and no more than it may", () => {
  const kept = new Kept<number>(2);
  kept.put("a", 1);
  kept.put("b", 2);
  expect(kept.get("a")).toBe(1);
  kept.put("c", 3);
  expect([kept.get("a"), kept.get("b"), kept.get("c")]).toEqual([1, undefined, 3]);
  kept.put("c", 4);
  expect([kept.get("a"), kept.get("c")]).toEqual([1, 4]);
  kept.clear();
  expect(kept.get("a")).toBeUndefined();
});
