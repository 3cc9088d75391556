import type { Elevation, Finding, OpeningView, StepsOfDay, StepView, WallView } from "../api/client";
import { stateOf, worstOf } from "./verdict";

/** What places are told apart by. */
export type PlaceBy = "verdict" | "phase" | "trade" | "day" | "tonight";

/** A place on a wall, and how the work stands there. */
export interface Place {
  id: string;
  name: string;
  opening: OpeningView;
  /** Which of the six is said of it. */
  state: number;
  done: number;
  all: number;
  /** The first step that is not done; null where all are. */
  next: StepView | null;
  /** On which day that step is done, where days are known. */
  day: string | null;
}

/** A wall of the building. */
export interface WallOf {
  name: string;
  /** Where it begins and ends on the unfolded elevation. */
  along: [number, number];
  /** Where it stands: its left end from above, x to the right and z towards who looks, and how far it is turned. */
  stands: { x: number; z: number; turn: number };
  /** How far down its highest point is, on the unfolded elevation, and how far its foot. */
  top: number;
  foot: number;
  /** Its outline, as corners of a polygon. */
  outline: string;
  /** What covers it at this moment, as a path. */
  cover: string;
  /** How far down grade, paving and floors are marked on it. */
  levels: number[];
  /** Which of the six is said of it. */
  state: number;
  places: Place[];
}

/** A list by what each belongs to, in the order in which it stands; looked through once, however many there are to belong to. */
export function grouped<T, K>(list: T[], of: (x: T) => Iterable<K>): (key: K) => T[] {
  const groups = new Map<K, T[]>();
  for (const x of list)
    for (const key of of(x)) {
      const group = groups.get(key);
      if (group) group.push(x);
      else groups.set(key, [x]);
    }
  return (key) => groups.get(key) ?? [];
}

const byPlace = new WeakMap<StepView[], (id: string) => StepView[]>();
/** The steps of each place. A list of steps stays the same from moment to moment, and is looked through once. */
export function stepsByPlace(steps: StepView[]): (id: string) => StepView[] {
  const known = byPlace.get(steps) ?? grouped(steps, (x) => [x.opening]);
  byPlace.set(steps, known);
  return known;
}

/** The same thing as before where it says the same, so that what shows it is not drawn anew. */
function sameAs<T extends object>(now: T, before: T | undefined): T {
  const keys = Object.keys(now) as (keyof T)[];
  return before && keys.every((k) => Object.is(now[k], before[k])) ? before : now;
}
const sameNumbers = (a: number[], b: number[]) => a.length === b.length && a.every((x, i) => x === b[i]);
function sameList<T extends object>(now: T[], before: T[] | undefined): T[] {
  return before?.length === now.length && now.every((x, i) => x === before[i]) ? before : now;
}

/**
 * The walls of a building with what stands on each. `days` says which steps begin on which day. A wall that says the same as `before` stays the
 * same thing.
 */
export function wallsOf(
  view: WallView,
  names: Map<string, string>,
  days: StepsOfDay[] | null,
  before: WallOf[] = [],
): WallOf[] {
  const { elevation, done } = view;
  const steps = stepsByPlace(view.steps);
  const found = grouped(view.findings, (f) => f.features);
  const foundOn = grouped(view.findings, (f) => f.walls);
  const standsOn = grouped(elevation.openings, (o) => [o.wall]);
  const dayOf = new Map((days ?? []).flatMap((d) => d.steps.map((id) => [id, d.on] as const)).reverse());
  const state = (findings: Finding[]) => stateOf(worstOf(findings), view.verdict.finished);
  const place = (opening: OpeningView, was: Place | undefined): Place => {
    const todo = steps(opening.id).filter((x) => !x.removed);
    const next = todo.find((x) => x.ends > done) ?? null;
    const now = {
      id: opening.id,
      name: names.get(opening.id) ?? "",
      opening,
      state: state(found(opening.id)),
      done: todo.filter((x) => x.ends <= done).length,
      all: todo.length,
      next,
      day: (next && dayOf.get(next.id)) ?? null,
    };
    return sameAs(now, was);
  };
  const wide = elevation.shapes.flatMap(wideBoxes);
  const heights = elevation.levels.map((l) => l.y).filter((y) => y > 0 && y < elevation.height);
  return elevation.key.map((wall, i) => {
    const was = before[i];
    const [x1 = 0, y1 = 0, x2 = 0, y2 = 0] = wall.line;
    const along: [number, number] = [wall.along[0] ?? 0, wall.along[1] ?? 0];
    const line = lineOf(along, elevation.top);
    // Seen from above y is towards who looks; a wall that runs away from there is turned to the left.
    const stands = { x: x1, z: y1, turn: (Math.atan2(y1 - y2, x2 - x1) * 180) / Math.PI };
    const places = standsOn(i).map((o, n) => place(o, was?.places[n]));
    const now = {
      name: wall.name,
      along: was && sameNumbers(along, was.along) ? was.along : along,
      stands: sameAs(stands, was?.stands),
      top: Math.min(...line.map(([, y]) => y)),
      foot: elevation.height,
      outline: [[along[0], elevation.height], ...line, [along[1], elevation.height]].map((p) => p.join(",")).join(" "),
      cover: coverOf(wide, along),
      levels: was && sameNumbers(heights, was.levels) ? was.levels : heights,
      state: state(foundOn(i)),
      places: sameList(places, was?.places),
    };
    return sameAs(now, was);
  });
}

type Shape = Elevation["shapes"][number];
/** So wide is what covers the wall itself, in. */
const WIDE = 40;
const boxes = new WeakMap<Shape, number[][]>();
/** Boxes of the parts of what covers the wall itself. Pieces that did not change are the same things, and are looked through once. */
function wideBoxes(shape: Shape): number[][] {
  const known = boxes.get(shape);
  if (known) return known;
  const box = (part: number[][]) => {
    const [xs, ys] = [part.map((c) => c[0] ?? 0), part.map((c) => c[1] ?? 0)];
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  };
  const all = shape.role === "barrier" ? shape.parts.map(box) : [];
  const reach = Math.max(...all.map((b) => b[2] ?? 0)) - Math.min(...all.map((b) => b[0] ?? 0));
  const wide = reach >= WIDE ? all : [];
  boxes.set(shape, wide);
  return wide;
}

/** What of the boxes lies on a wall, as a path. */
function coverOf(wide: number[][], [lo, hi]: [number, number]): string {
  const within = (x: number) => Math.min(Math.max(x, lo), hi);
  return wide
    .map(([x0 = 0, y0 = 0, x1 = 0, y1 = 0]) =>
      within(x1) > within(x0) ? `M${within(x0)} ${y0}H${within(x1)}V${y1}H${within(x0)}Z` : "",
    )
    .join("");
}

/** The top of the wall between two places of the unfolded elevation, from left to right. */
function lineOf([lo, hi]: [number, number], top: Elevation["top"]): [number, number][] {
  const points = top.map(([x = 0, y = 0]): [number, number] => [x, y]);
  // At a corner the tops of two walls may differ: that of a wall is where its own side comes to.
  const at = (x: number, side: 1 | -1) => {
    const inside = x + side * 1e-6;
    const i = points.findIndex(([px]) => px > inside);
    const [a, b] = [points[i - 1], points[i]];
    if (!a || !b) return points.at(side)?.[1] ?? 0;
    const y = a[1] + ((inside - a[0]) / (b[0] - a[0])) * (b[1] - a[1]);
    return Math.round(y * 1000) / 1000;
  };
  return [[lo, at(lo, 1)], ...points.filter(([x]) => x > lo && x < hi), [hi, at(hi, -1)]];
}

/**
 * How large walls can be drawn one after another in rows so that all of them fit in a frame: points to an inch. None takes less room across than
 * `least`.
 */
export function scaleOfRows(
  walls: { length: number; height: number }[],
  frame: { width: number; height: number },
  gap: { across: number; down: number; least: number },
) {
  const tall = (scale: number) => {
    let [all, row, used] = [0, 0, 0];
    for (const { length, height } of walls) {
      const width = Math.max(length * scale, Math.min(gap.least, frame.width));
      if (used > 0 && used + gap.across + width > frame.width) [all, row, used] = [all + row, 0, 0];
      used += (used > 0 ? gap.across : 0) + width;
      row = Math.max(row, height * scale + gap.down);
    }
    return all + row;
  };
  let [least, most] = [0, frame.width / Math.max(1, ...walls.map((w) => w.length))];
  if (tall(most) <= frame.height) return most;
  for (let i = 0; i < 40; i++) {
    const middle = (least + most) / 2;
    if (tall(middle) <= frame.height) least = middle;
    else most = middle;
  }
  return least;
}

/** How large a building can be drawn so that it fits however it is turned: points to an inch. */
export function scaleOfAll(walls: WallOf[], height: number, frame: { width: number; height: number }, tilt: number) {
  const ends = walls.map((w) => ({ x: w.stands.x, z: w.stands.z }));
  const last = walls.at(-1);
  if (last) {
    const [length, turn] = [last.along[1] - last.along[0], (last.stands.turn * Math.PI) / 180];
    ends.push({ x: last.stands.x + length * Math.cos(turn), z: last.stands.z - length * Math.sin(turn) });
  }
  const middle = (values: number[]) => (Math.min(...values) + Math.max(...values)) / 2;
  const [x, z] = [middle(ends.map((e) => e.x)), middle(ends.map((e) => e.z))];
  const reach = Math.max(1, ...ends.map((e) => Math.hypot(e.x - x, e.z - z)));
  const lean = (tilt * Math.PI) / 180;
  const tall = height * Math.cos(lean) + 2 * reach * Math.sin(lean);
  return { x, z, reach, ends, scale: Math.min(frame.width / (2 * reach), frame.height / tall) };
}
