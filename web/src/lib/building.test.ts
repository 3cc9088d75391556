import { expect, it } from "vitest";
import type { WallView } from "../api/client";
import { scaleOfAll, scaleOfRows, wallsOf } from "./building";

const opening = (id: string, wall: number) => ({ id, wall, rect: [0, 0, 10, 10] });
const step = (id: string, opening: string, ends: number, removed = false) => ({ id, opening, ends, removed });
const view = {
  done: 2,
  verdict: { finished: true },
  steps: [step("a", "W1", 1), step("b", "W1", 3), step("c", "W2", 2), step("d", "W2", 9, true), step("e", "", 4)],
  findings: [
    { features: ["W1"], walls: [0], severity: "glue" },
    { features: ["W1", "W2"], walls: [0, 1], severity: "leak" },
  ],
  elevation: {
    key: [
      { name: "South", along: [0, 300], line: [0, 0, 300, 0] },
      { name: "East", along: [300, 500], line: [300, 0, 300, -200] },
    ],
    top: [],
    height: 90,
    shapes: [],
    levels: [],
    openings: [opening("W1", 0), opening("W2", 1)],
  },
} as unknown as WallView;

it("says of each place what is done there, what comes next, on which day, and what is said of it", () => {
  const days = [
    { on: "2026-03-02", steps: ["a"] },
    { on: "2026-03-03", steps: ["b", "c"] },
  ];
  const walls = wallsOf(view, new Map([["W1", "Bunk room"]]), days);
  expect(walls.map((w) => [w.name, w.state, w.places.length])).toEqual([
    ["South", 1, 1],
    ["East", 1, 1],
  ]);
  const [first, second] = walls.flatMap((w) => w.places);
  expect(first).toMatchObject({ name: "Bunk room", done: 1, all: 2, day: "2026-03-03", state: 1 });
  expect(first?.next?.id).toBe("b");
  // What is left out is nothing to be done.
  expect(second).toMatchObject({ done: 1, all: 1, next: null, day: null });
});

it("turns a wall that runs away from who looks by a quarter to the left", () => {
  expect(wallsOf(view, new Map(), null).map((w) => w.stands)).toEqual([
    { x: 0, z: 0, turn: 0 },
    { x: 300, z: 0, turn: 90 },
  ]);
});

it("draws walls in rows as large as the frame lets them be", () => {
  const walls = (lengths: number[], height: number) => lengths.map((length) => ({ length, height }));
  const plain = { across: 10, down: 10, least: 0 };
  // A low wall needs less: the second row is half as tall.
  const rows = [
    { length: 100, height: 40 },
    { length: 100, height: 20 },
  ];
  expect(scaleOfRows(rows, { width: 150, height: 60 + 20 }, plain)).toBeCloseTo(1, 6);
  // One wall: as wide as the frame. Two of 100 in a frame of 210 by 40: side by side they would be 20 tall, one over the other less wide.
  expect(scaleOfRows([{ length: 100, height: 50 }], { width: 200, height: 500 }, plain)).toBe(2);
  expect(scaleOfRows(walls([100, 100], 20), { width: 210, height: 40 }, plain)).toBeCloseTo(1, 6);
  for (const lengths of [[480, 200, 480, 200], [600, 600, 600], [50], Array<number>(40).fill(600)]) {
    const frame = { width: 700, height: 500 };
    const scale = scaleOfRows(walls(lengths, 236), frame, { across: 12, down: 30, least: 90 });
    expect(scale).toBeGreaterThan(0);
    let [rows, used] = [1, 0];
    for (const w of lengths.map((l) => Math.max(l * scale, 90))) {
      expect(w).toBeLessThanOrEqual(frame.width + 1e-9);
      if (used > 0 && used + 12 + w > frame.width) [rows, used] = [rows + 1, w];
      else used += (used > 0 ? 12 : 0) + w;
    }
    expect(rows * (236 * scale + 30)).toBeLessThanOrEqual(frame.height + 1e-6);
  }
});

it("fits a folded building however it is turned", () => {
  const walls = wallsOf(view, new Map(), null);
  const { x, z, reach, scale } = scaleOfAll(walls, 200, { width: 800, height: 600 }, 30);
  expect([x, z]).toEqual([150, -100]);
  expect(reach).toBeCloseTo(Math.hypot(150, 100), 6);
  expect(2 * reach * scale).toBeLessThanOrEqual(800 + 1e-9);
});

it("draws each wall up to its own top, also where its neighbour's is another", () => {
  const outlines = (top: number[][]) =>
    wallsOf({ ...view, elevation: { ...view.elevation, top } }, new Map(), null).map((w) => w.outline);
  expect(outlines([])[0]).toBe("0,90 0,0 300,0 300,90");
  const top = [
    [0, 20],
    [150, 0],
    [300, 20],
    [300, 60],
    [500, 80],
  ];
  expect(outlines(top)).toEqual(["0,90 0,20 150,0 300,20 300,90", "300,90 300,60 500,80 500,90"]);
});

it("covers each wall with its own part of what lies on both, and with nothing that is small", () => {
  const square = (x0: number, x1: number) => [
    [x0, 10],
    [x1, 10],
    [x1, 50],
    [x0, 50],
  ];
  const shapes = [
    { role: "barrier", parts: [square(250, 350)] },
    { role: "barrier", parts: [square(20, 30)] },
    { role: "flashing", parts: [square(0, 300)] },
  ] as unknown as WallView["elevation"]["shapes"];
  const walls = wallsOf({ ...view, elevation: { ...view.elevation, shapes } }, new Map(), null);
  expect(walls.map((w) => w.cover)).toEqual(["M250 10H300V50H250Z", "M300 10H350V50H300Z"]);
});

it("leaves a wall that says the same the same thing", () => {
  const names = new Map<string, string>();
  const before = wallsOf(view, names, null);
  const same = wallsOf({ ...view }, names, null, before);
  expect(same.map((w, i) => w === before[i])).toEqual([true, true]);
  // A level that is taken away goes from each wall.
  const levels = (...ys: number[]) => ({
    ...view,
    elevation: { ...view.elevation, levels: ys.map((y) => ({ y })) } as WallView["elevation"],
  });
  const two = wallsOf(levels(20, 40), names, null);
  expect(wallsOf(levels(20), names, null, two).map((w) => w.levels)).toEqual([[20], [20]]);
  // One action more is done at the first wall's place alone.
  const on = wallsOf({ ...view, done: 3 }, names, null, before);
  expect(on.map((w, i) => w === before[i])).toEqual([false, true]);
});

it("calls no place dry before the wall is finished", () => {
  const unfinished = { ...view, findings: [], verdict: { ...view.verdict, finished: false } };
  expect(wallsOf(unfinished, new Map(), null).map((w) => [w.state, w.places[0]?.state])).toEqual([
    [4, 4],
    [4, 4],
  ]);
});
