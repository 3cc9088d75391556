import type { SeenWater } from "../api/client";

/** Nobody points nearer than this with a gloved finger, in. */
const NEAREST = 0.25;
const text = (n: number) => String(Math.round(n / NEAREST) * NEAREST);

/** A spot on the drawing as the record has it: to the right of and above the corner of its place. */
export const spotAt = (origin: number[], [x, y]: [number, number], did: SeenWater["did"]): SeenWater => ({
  did,
  x: text(x - (origin[0] ?? 0)),
  y: text((origin[1] ?? 0) - y),
});

/** Where a spot is on the drawing. */
export const onDrawing = (origin: number[], spot: SeenWater): [number, number] => [
  (origin[0] ?? 0) + Number(spot.x),
  (origin[1] ?? 0) - Number(spot.y),
];

/** The same spot moved, in inches to the right and down. */
export const moved = (spot: SeenWater, [right, down]: [number, number]): SeenWater => ({
  ...spot,
  x: text(Number(spot.x) + right),
  y: text(Number(spot.y) - down),
});
