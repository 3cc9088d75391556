import { describe, expect, it } from "vitest";
import { around, moved, toDrawing, zoomed } from "./viewport";

const whole = { x: 0, y: 0, width: 200, height: 100 };

describe("viewport", () => {
  it("keeps the point under the pointer when zooming", () => {
    const element = { x: 10, y: 20, width: 400, height: 200 };
    const before = toDrawing({ x: 110, y: 70 }, element, whole);
    const after = toDrawing({ x: 110, y: 70 }, element, zoomed(whole, 0.5, before, whole));
    expect(after.x).toBeCloseTo(before.x);
    expect(after.y).toBeCloseTo(before.y);
  });

  it("never zooms closer than six inches nor farther than twice the wall", () => {
    expect(zoomed(whole, 0.0001, { x: 50, y: 50 }, whole).height).toBeCloseTo(6);
    expect(zoomed(whole, 1000, { x: 50, y: 50 }, whole).width).toBeCloseTo(400);
  });

  it("keeps the middle of the view on the drawing", () => {
    const v = moved(whole, 1000, -1000, whole);
    expect(v.x + v.width / 2).toBe(200);
    expect(v.y + v.height / 2).toBe(0);
  });

  it("letterboxes an element of another shape", () => {
    const element = { x: 0, y: 0, width: 200, height: 400 };
    expect(toDrawing({ x: 0, y: 200 }, element, whole)).toEqual({ x: 0, y: 50 });
    expect(around(whole, 5)).toEqual({ x: -5, y: -5, width: 210, height: 110 });
  });
});
