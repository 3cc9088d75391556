import { describe, expect, it } from "vitest";
import { dragged, sizeOf, twoSizes } from "./drag";

const from = { left: 70, sill: 30, width: 41, height: 62.5 };

describe("dragging an opening", () => {
  it("reads the sizes of the job off the drawing", () => {
    expect(sizeOf([70, 21.5, 41, 62.5], 114)).toEqual(from);
  });
  it("moves the body without changing its size, to quarter inches", () => {
    expect(dragged(from, "body", 3.1, -2.4)).toEqual({ left: 73, sill: 32.5, width: 41, height: 62.5 });
  });
  it("moves one edge and leaves the opposite one where it is", () => {
    const left = dragged(from, "left", -2, 99);
    expect(left.left + left.width).toBe(from.left + from.width);
    const bottom = dragged(from, "bottom", 99, 3);
    expect(bottom.sill).toBe(27);
    expect(bottom.sill + bottom.height).toBe(from.sill + from.height);
    expect(dragged(from, "right", 1, 0).width).toBe(42);
    expect(dragged(from, "top", 0, -1).height).toBe(63.5);
  });
  it("splits a line into two sizes and nothing else", () => {
    expect(twoSizes("41 × 62 1/2")).toEqual(["41", "62 1/2"]);
    expect(twoSizes("3'-4 1/2\" x 1028 mm")).toEqual(["3'-4 1/2\"", "1028 mm"]);
    expect(twoSizes("41 by 62")).toEqual(["41", "62"]);
    expect(twoSizes("41")).toBeNull();
    expect(twoSizes("1 x 2 x 3")).toBeNull();
  });
});
