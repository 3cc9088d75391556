import { describe, expect, it } from "vitest";
import type { Verdict } from "../api/client";
import { MARKS, kindOf, stateOf, verdictOf, worstOf } from "./verdict";

const verdict = (state: number, more: Partial<Verdict> = {}): Verdict => ({
  state,
  says: "",
  dry: state >= 5,
  by_laps: state === 6,
  finished: true,
  heads: [],
  leans: [],
  ...more,
});
const finding = (severity: string) => ({ severity }) as never;

describe("what is said of a wall", () => {
  it("looks like good news in the last two only, each with a mark of its own", () => {
    const kinds = [1, 2, 3, 4, 5, 6].map(kindOf);
    expect(kinds).toEqual(["bad", "bad", "bad", "open", "glue", "good"]);
    expect(new Set(MARKS.slice(1)).size).toBe(6);
    expect(verdictOf(verdict(6)).text).toBe("Dry by its laps");
    expect(verdictOf(verdict(3)).text).toBe("Not as planned");
  });
  it("says how much leans on glue, and what of it is unusual first", () => {
    const usual = { says: "a", places: 3, usual: true };
    expect(verdictOf(verdict(5, { leans: [usual] })).more).toContain("3 places");
    const odd = verdictOf(verdict(5, { leans: [{ says: "b", places: 1, usual: false }, usual] }));
    expect(odd.more).toContain("1 kind of edge");
  });
  it("is no alarm while the wall is still being built", () => {
    const wet = verdictOf(verdict(1, { finished: false }));
    expect([wet.kind, wet.text]).toEqual(["open", "Not finished"]);
    expect(wet.more).not.toBe(verdictOf(verdict(4, { finished: false })).more);
  });
  it("is told of a place by the worst that is found there", () => {
    expect(worstOf([finding("glue"), finding("fault"), finding("note")])).toBe("fault");
    expect([null, "note", "glue", "fault", "missing", "pond", "leak"].map((w) => stateOf(w as never, true))).toEqual([
      6, 6, 5, 3, 3, 2, 1,
    ]);
    expect([null, "note", "glue", "leak"].map((w) => stateOf(w as never, false))).toEqual([4, 4, 5, 1]);
  });
});
