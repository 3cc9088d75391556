import { describe, expect, it } from "vitest";
import type { Elevation } from "../api/client";
import { s } from "../strings";
import { FIRST_SIZE, askOf, boxAt, frameOf, ofOpening, openingAt, placeOf } from "./repair";

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
    expect(askOf(wall, "tear", [47, 58.5, 6, 3], { id: "D1" })).toMatchObject({ by: "sight", what: "tear", id: "D1" });
    expect(askOf(wall, "tear", [47, 58.5, 6, 3])).not.toHaveProperty("id");
  });
  it("is shown with some room round the wall it is on", () => {
    expect(frameOf(wall, null)).toEqual([-6, -6, 156, 122]);
    expect(frameOf(wall, [40, 100])).toEqual([34, -6, 72, 122]);
  });
});

describe("what is said of a repair", () => {
  it("starts from a size a hand or a knife makes, one that can be kept", () => {
    for (const [w, h] of Object.values(FIRST_SIZE)) {
      expect(w).toBeGreaterThanOrEqual(1 / 16);
      expect(h).toBeGreaterThanOrEqual(1 / 16);
      expect(Math.max(w, h)).toBeLessThanOrEqual(240);
    }
    expect(Object.keys(FIRST_SIZE)).toHaveLength(10);
  });
  it("names what comes off, the first of many", () => {
    expect(s.repair.opened(1, ["screen"])).toBe("Comes off first: one piece (screen).");
    expect(s.repair.opened(7, ["a", "b", "c", "d", "e"])).toBe("Comes off first: 7 pieces (a, b, c, d …).");
  });
  it("says minutes and material as they are", () => {
    expect(s.repair.takes(0.2, 0)).toBe("1 min");
    expect(s.repair.takes(8.4, 0.04)).toBe("8 min · less than 0.1 ft² new");
    expect(s.repair.takes(190, 165.3)).toBe("190 min · 165.3 ft² new");
    expect(s.repair.rain(null, 0)).toBe("Rain gets in at nothing that blows, with the glue lost at 0.0 in.");
  });
});

describe("what is said of a calendar that was agreed on", () => {
  it("counts what moves", () => {
    expect([0, 1, 6].map(s.calendar.isKept)).toEqual([
      "As agreed.",
      "As near as can be to what was agreed: one step moves.",
      "As near as can be to what was agreed: 6 steps move.",
    ]);
    expect(s.minutes.says(42, 1.234)).toBe("Minutes really taken: 1.23 times the profile's, by 42 steps on record");
  });
});

it("a window is pointed at as a whole, and one that moved is asked about where it is now", () => {
  const opening = { id: "W1", feature: "opening", rect: [36, 12, 41, 60] };
  const e = { width: 200, height: 120, plate: 108, openings: [opening] } as unknown as Elevation;
  expect(openingAt(e, [40, 20])?.id).toBe("W1");
  expect(openingAt(e, [10, 20])).toBeNull();
  expect(askOf(e, "late-hole", [10, 20, 8, 8], { thing: "duct" })).toMatchObject({ by: "sight", thing: "duct" });
  expect(askOf(e, "tear", [10, 20, 8, 8], { thing: "duct" })).not.toHaveProperty("thing");
  expect(askOf(e, "moved", [48, 12, 41, 60], { opening: "W1" })).toEqual({
    by: "moved",
    opening: "W1",
    place: { left: "48 in", bottom: "36 in", width: "41 in", height: "60 in" },
  });
  expect(ofOpening("unit") && !ofOpening("tear")).toBe(true);
});
