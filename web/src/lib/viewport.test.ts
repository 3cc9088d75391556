import { describe, expect, it } from "vitest";
import { CLOSEST, around, extent, laidToShow, seenIn } from "./viewport";

const whole = { x: 0, y: 0, width: 200, height: 100 };
const element = { width: 400, height: 300 };

describe("viewport", () => {
  it("shows a box whole and in the middle of an element of another shape", () => {
    const seen = seenIn(laidToShow(whole, element), element);
    expect({ ...seen, x: seen.x + 0 }).toEqual({ x: 0, y: -25, width: 200, height: 150 });
    expect(around(whole, 5)).toEqual({ x: -5, y: -5, width: 210, height: 110 });
  });

  it("never goes closer than six units nor farther than twice the whole", () => {
    const [least, most] = extent(whole, element);
    const at = (k: number) => seenIn({ k, x: 0, y: 0 }, element);
    expect(Math.min(at(most).width, at(most).height)).toBeCloseTo(CLOSEST);
    expect(Math.max(at(least).width, at(least).height)).toBeCloseTo(2 * whole.width);
    expect(least).toBeLessThanOrEqual(most);
  });
});
