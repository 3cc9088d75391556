import { describe, expect, it } from "vitest";
import { sized } from "./sized";

const fractions = (text: string) =>
  sized(text)
    .filter((p) => p.fraction)
    .map((p) => p.text);

describe("fractions in a text", () => {
  it("are those of a tape, and nothing else", () => {
    expect(fractions('Cut 53 1/4" long, 5/16 off, 11/16"')).toEqual(["1/4", "5/16", "11/16"]);
    expect(fractions("3/12 and 2026/4/8, 103/175, F01/F02, 1/25 in")).toEqual([]);
    expect(sized("")).toEqual([{ text: "", fraction: false }]);
  });
  it("leave the text as it is once put together", () => {
    for (const text of ["", "1/2", "a 1/2", "1/2 b", 'x 1/8" × 3/4" y', "no size"])
      expect(
        sized(text)
          .map((p) => p.text)
          .join(""),
      ).toBe(text);
  });
});
