import type { JobState, WallView } from "../api/client";
import { rooms } from "../shell/rooms";
import { s } from "../strings";

/** Something that can be gone to, or done, from the palette. */
export interface Findable {
  kind: keyof typeof s.shell.kinds;
  id: string;
  label: string;
  /** What stands behind it in small letters. */
  more: string;
}

/** Everything of a job that has a name. */
export function findables(answer: { state: JobState; view: WallView }, commands: Findable[]): Findable[] {
  const { state, view } = answer;
  const names = new Map((state.job.openings ?? []).map((o) => [o.id, o.name]));
  const pieces = new Map(view.elevation.shapes.map((x) => [x.piece, x]));
  return [
    ...rooms.map((r): Findable => ({ kind: "room", id: r.id, label: r.label, more: "" })),
    ...commands,
    ...view.elevation.openings.map((o): Findable => ({
      kind: "place",
      id: o.id,
      label: `${o.id} · ${names.get(o.id) ?? ""}`,
      more: o.width ? `${o.width} × ${o.height}` : "",
    })),
    ...view.findings.map((f): Findable => ({
      kind: "finding",
      id: String(f.number),
      label: `${f.number} ${f.reason}`,
      more: f.code,
    })),
    ...view.steps.map((x): Findable => ({
      kind: "step",
      id: x.id,
      label: x.title,
      more: [x.opening, names.get(x.opening)].filter(Boolean).join(" · "),
    })),
    ...[...pieces.values()].map((x): Findable => ({
      kind: "piece",
      id: x.piece,
      label: x.name,
      more: [x.letter, x.piece.split("/")[0]].join(" · "),
    })),
    ...view.figures.map((f): Findable => ({ kind: "figure", id: f.id, label: f.name, more: f.in_force })),
  ];
}

/** Most lines shown at once. */
const MOST = 40;

/** What holds all words typed, those first that begin with them. */
export function found(all: Findable[], typed: string): Findable[] {
  const words = typed.trim().toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return all.filter((x) => x.kind === "room" || x.kind === "command").slice(0, MOST);
  const text = (x: Findable) => `${x.label} ${x.more}`.toLowerCase();
  const fits = all.filter((x) => words.every((w) => text(x).includes(w)));
  const first = words[0] ?? "";
  // A word that stands there as it was typed comes before one that only begins so: W1 before W10.
  const whole = (x: Findable) =>
    words.filter((w) =>
      text(x)
        .split(/[\s·,]+/)
        .includes(w),
    ).length;
  const rank = (x: Findable) => (x.label.toLowerCase().startsWith(first) ? 0 : text(x).includes(` ${first}`) ? 1 : 2);
  return fits
    .map((x, i) => ({ x, i }))
    .sort((a, b) => whole(b.x) - whole(a.x) || rank(a.x) - rank(b.x) || a.i - b.i)
    .slice(0, MOST)
    .map(({ x }) => x);
}
