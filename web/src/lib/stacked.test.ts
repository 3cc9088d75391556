import { expect, test } from "vitest";
import type { Elevation } from "../api/client";
import { areas } from "./figures";
import { stacked } from "./stacked";

type Shape = Elevation["shapes"][number];

const rect = (role: string, x: number, y: number, w: number, h: number, held = false) =>
  ({
    role,
    held,
    parts: [
      [
        [x, y],
        [x + w, y],
        [x + w, y + h],
        [x, y + h],
      ],
    ],
    edges: [[x, y, x + w, y]],
  }) as unknown as Shape;

test("what lies over something stays over it, and what has one role beside it is one", () => {
  const wall = rect("barrier", 0, 0, 100, 100);
  const windows = [10, 40, 70].flatMap((x) => [
    rect("pan", x, 50, 20, 10),
    rect("jamb", x, 20, 5, 35),
    rect("head", x, 15, 20, 10),
  ]);
  const drawn = stacked([wall, ...windows], 0);
  expect(drawn.map((d) => d.role)).toEqual(["barrier", "pan", "jamb", "head"]);
  expect(drawn[2]?.areas).toBe([10, 40, 70].map((x) => areas(rect("jamb", x, 20, 5, 35).parts)).join(""));
});

/** The role that is seen at a point where shapes are drawn one after another. */
const seen = (shapes: Shape[], x: number, y: number) =>
  shapes
    .filter(({ parts: [part = []] }) => {
      const [[left = 0, top = 0] = [], , [right = 0, foot = 0] = []] = part;
      return left < x && x < right && top < y && y < foot;
    })
    .at(-1)?.role ?? "";

test("drawn in layers a wall looks as it does drawn piece by piece", () => {
  // Small numbers that are the same each time.
  let n = 7;
  const next = (most: number) => (n = (n * 48271) % 2147483647) % most;
  const roles = ["barrier", "pan", "jamb", "head", "patch"];
  for (let wall = 0; wall < 40; wall++) {
    const shapes = Array.from({ length: 60 }, () =>
      rect(roles[next(roles.length)] ?? "pan", next(90), next(90), 1 + next(25), 1 + next(25)),
    );
    const drawn = stacked(shapes, 0);
    expect(drawn.length).toBeLessThanOrEqual(shapes.length);
    const parts = drawn.flatMap((d) =>
      [...d.areas.matchAll(/M([\d.]+) ([\d.]+)L[\d.]+ [\d.]+L([\d.]+) ([\d.]+)L[\d.]+ [\d.]+Z/g)].map(
        ([, a = "", b = "", c = "", e = ""]) => rect(d.role, +a, +b, +c - +a, +e - +b),
      ),
    );
    expect(parts.length).toBe(shapes.length);
    for (let i = 0; i < 60; i++) {
      const [x, y] = [next(100) + 0.5, next(100) + 0.5];
      expect(seen(parts, x, y)).toBe(seen(shapes, x, y));
    }
  }
});

test("what would be thinner than a line is left out, and what is held up stays apart", () => {
  expect(stacked([rect("pan", 0, 0, 20, 0.4), rect("pan", 0, 5, 20, 4)], 0.5).length).toBe(1);
  expect(stacked([rect("pan", 0, 0, 20, 4), rect("pan", 40, 0, 20, 4, true)], 0).map((d) => d.held)).toEqual([
    false,
    true,
  ]);
});
