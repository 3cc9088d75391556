import { describe, expect, it } from "vitest";
import { typedNumber } from "./numbers";

describe("a number as it is typed", () => {
  it("is read with a point or a comma", () => {
    expect(["10", " 10.1 ", "10,1", "-2", ".5"].map(typedNumber)).toEqual([10, 10.1, 10.1, -2, 0.5]);
  });
  it("is nothing where nothing is typed, and not nothing where it is no number", () => {
    expect(["", "  "].map(typedNumber)).toEqual([null, null]);
    expect(["ten", "1e9", "10 oz", "1,2,3", "Infinity", "0x10"].map(typedNumber)).toEqual(Array(6).fill(undefined));
  });
});
