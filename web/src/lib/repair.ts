import type { Elevation, FoundAsk, FoundKind } from "../api/client";

/** What was found, on the unfolded elevation: left, top, width, height in inches. */
export type Box = [number, number, number, number];

/** So large is each kind to begin with, in: what a hand or a knife does. */
export const FIRST_SIZE: Record<FoundKind, [number, number]> = {
  tear: [6, 3],
  hole: [0.5, 0.5],
  "late-hole": [3.5, 3.5],
  "let-go": [6, 2],
  worn: [24, 24],
  wet: [24, 24],
  wrong: [6, 3],
  failed: [6, 3],
  unit: [1, 1],
  moved: [1, 1],
};
/** What is found at an opening as a whole: the opening is pointed at, not a place on the wall. */
export const ofOpening = (what: FoundKind | null) => what === "unit" || what === "moved";

/** The window or door at a point. */
export function openingAt(e: Elevation, [x, y]: [number, number]) {
  const within = ([a = 0, b = 0, w = 0, h = 0]: number[]) => x >= a && x <= a + w && y >= b && y <= b + h;
  return e.openings.find((o) => o.feature === "opening" && within(o.rect)) ?? null;
}

const sixteenth = (n: number) => Math.round(n * 16) / 16;
/** A finger points no closer than half an inch. */
const half = (n: number) => Math.round(n * 2) / 2;

/** A box of a size round a point, whole on the wall. */
export function boxAt(e: Elevation, [x, y]: [number, number], [w, h]: [number, number]): Box {
  const within = (v: number, most: number) => Math.min(Math.max(v, 0), Math.max(0, most));
  return [within(half(x - w / 2), e.width - w), within(half(y - h / 2), e.height - h), sixteenth(w), sixteenth(h)];
}

/** The box as the server knows places: from the wall's left end and from the bottom plate up. */
export function placeOf(e: Elevation, [x, y, w, h]: Box) {
  const inches = (n: number) => `${sixteenth(n)} in`;
  return { left: inches(x), bottom: inches(e.plate - (y + h)), width: inches(w), height: inches(h) };
}

/** What the server is asked; of an opening that moved, where its box is now. */
export function askOf(
  e: Elevation,
  what: FoundKind,
  box: Box,
  { id, opening, thing }: { id?: string; opening?: string; thing?: string } = {},
): FoundAsk {
  if (what === "moved") return { by: "moved", opening: opening ?? "", place: placeOf(e, box) };
  const through = what === "late-hole" && thing ? { thing } : {};
  return { by: "sight", what, place: placeOf(e, box), ...(id ? { id } : {}), ...through };
}

/** What is shown of a wall: all of it where that is not long, else one stretch of it. */
export function frameOf(e: Elevation, along: number[] | null): Box {
  const [from = 0, to = e.width] = along ?? [];
  const room = 6;
  return [from - room, -room, to - from + 2 * room, e.height + 2 * room];
}
