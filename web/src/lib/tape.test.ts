import { expect, test } from "vitest";
import { hooked, onTape, pulled } from "./tape";

const opening = { x: 36, y: 12, w: 41.375, h: 60 };

test("a tape that is hooked near an edge is at it, and is pulled level or plumb", () => {
  expect(hooked(opening, [37.9, 40])).toEqual([36, 40]);
  expect(hooked(opening, [75.5, 70])).toEqual([77.375, 72]);
  expect(hooked(opening, [50, 40])).toEqual([50, 40]);
  expect(pulled([36, 40], [77.375, 44])).toEqual([77.375, 40]);
  expect(pulled([36, 72], [40, 12])).toEqual([36, 12]);
});

test("it reads inches and the nearest sixteenth, as it stands on a tape", () => {
  expect(onTape(41.375)).toBe('41 3/8"');
  expect(onTape(60)).toBe('60"');
  expect(onTape(0.5)).toBe('1/2"');
  expect(onTape(12.97)).toBe('13"');
  expect(onTape(12.9375)).toBe('12 15/16"');
});
