import type { Elevation, Finding, OpeningView, StepsOfDay, StepView, WallView } from "../api/client";
import { worstOf } from "./verdict";

/** What places are told apart by. */
export type PlaceBy = "verdict" | "phase" | "trade" | "day" | "tonight";

/** A place on a wall, and how the work stands there. */
export interface Place {
  id: string;
  name: string;
  opening: OpeningView;
  worst: Finding["severity"] | null;
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
  /** How far down its highest point is, on the unfolded elevation. */
  top: number;
  worst: Finding["severity"] | null;
  places: Place[];
}

/** The walls of a building with what stands on each. `days` says which steps begin on which day. */
export function wallsOf(view: WallView, names: Map<string, string>, days: StepsOfDay[] | null): WallOf[] {
  const at = new Map<string, StepView[]>();
  for (const step of view.steps) {
    if (step.removed || step.opening === "") continue;
    const list = at.get(step.opening);
    if (list) list.push(step);
    else at.set(step.opening, [step]);
  }
  const told = new Map<string, Finding[]>();
  for (const f of view.findings)
    for (const id of f.features) {
      const list = told.get(id);
      if (list) list.push(f);
      else told.set(id, [f]);
    }
  const dayOf = new Map((days ?? []).flatMap((d) => d.steps.map((id) => [id, d.on] as const)).reverse());
  const place = (opening: OpeningView): Place => {
    const steps = at.get(opening.id) ?? [];
    const next = steps.find((x) => x.ends > view.done) ?? null;
    return {
      id: opening.id,
      name: names.get(opening.id) ?? "",
      opening,
      worst: worstOf(told.get(opening.id) ?? []),
      done: steps.filter((x) => x.ends <= view.done).length,
      all: steps.length,
      next,
      day: (next && dayOf.get(next.id)) ?? null,
    };
  };
  return view.elevation.key.map((wall, i) => {
    const [x1 = 0, y1 = 0, x2 = 0, y2 = 0] = wall.line;
    const along: [number, number] = [wall.along[0] ?? 0, wall.along[1] ?? 0];
    return {
      name: wall.name,
      along,
      top: Math.min(...lineOf(along, view.elevation.top).map(([, y]) => y)),
      // Seen from above y is towards who looks; a wall that runs away from there is turned to the left.
      stands: { x: x1, z: y1, turn: (Math.atan2(y1 - y2, x2 - x1) * 180) / Math.PI },
      worst: worstOf(view.findings.filter((f) => f.walls.includes(i))),
      places: view.elevation.openings.filter((o) => o.wall === i).map(place),
    };
  });
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

/** The outline of a wall on the unfolded elevation, as corners of a polygon: up to where its top is. */
export function outlineOf(wall: WallOf, { top, height }: Pick<Elevation, "top" | "height">): string {
  const [lo, hi] = wall.along;
  return [[lo, height], ...lineOf(wall.along, top), [hi, height]].map((p) => p.join(",")).join(" ");
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
