import { describe, expect, it } from "vitest";
import type { Elevation } from "../api/client";
import { askOf, boxAt, frameOf, placeOf } from "./repair";

const wall = { width: 144, height: 110, plate: 109 } as Elevation;

describe("what was found", () => {
  it("lies round the point that was touched, whole on the wall", () => {
    expect(boxAt(wall, [50, 60], [6, 3])).toEqual([47, 58.5, 6, 3]);
    expect(boxAt(wall, [50.2, 60.1], [6, 3])).toEqual([47, 58.5, 6, 3]);
    expect(boxAt(wall, [0, 110], [6, 3])).toEqual([0, 107, 6, 3]);
    expect(boxAt(wall, [143.97, 0.01], [6, 3])).toEqual([138, 0, 6, 3]);
    expect(boxAt(wall, [10.03, 10], [0.5, 0.5])).toEqual([10, 10, 0.5, 0.5]);
  });
  it("is told from the left end and from the plate up", () => {
    expect(placeOf(wall, [47, 58.5, 6, 3])).toEqual({
      left: "47 in",
      bottom: "47.5 in",
      width: "6 in",
      height: "3 in",
    });
    expect(placeOf(wall, [0, 107, 6, 3])).toMatchObject({ bottom: "-1 in" });
    expect(askOf(wall, "tear", [47, 58.5, 6, 3], "D1")).toMatchObject({ by: "sight", what: "tear", id: "D1" });
    expect(askOf(wall, "tear", [47, 58.5, 6, 3])).not.toHaveProperty("id");
  });
  it("is shown with some room round the wall it is on", () => {
    expect(frameOf(wall, null)).toEqual([-6, -6, 156, 122]);
    expect(frameOf(wall, [40, 100])).toEqual([34, -6, 72, 122]);
  });
});
