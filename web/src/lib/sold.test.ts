import { describe, expect, it } from "vitest";
import { sizeKey, sizeWords } from "./sold";

describe("sizes as they are sold", () => {
  it("are the same whatever they cost and however an inch is written", () => {
    expect(sizeKey({ width: "6 in", length: "900 in", price: "30" })).toBe(sizeKey({ width: "6", length: "900" }));
    expect(sizeKey({ width: "6 in", length: "900 in" })).not.toBe(sizeKey({ width: "6 in", length: "450 in" }));
    expect(sizeKey({ fl_oz: 20, width: "" })).toBe(sizeKey({ fl_oz: "20", width: null }));
    expect(sizeKey({ gallons: 5 })).not.toBe(sizeKey({ fl_oz: 5 }));
  });
  it("are said in feet where they are whole feet", () => {
    expect(sizeWords({ width: "6 in", length: "900 in" })).toBe(`6" × 75'`);
    expect(sizeWords({ fl_oz: 20 })).toBe("20 fl oz");
    expect(sizeWords({ length: "3'-4 1/2\"" })).toBe("3'-4 1/2\"");
  });
});
