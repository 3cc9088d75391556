/** Dragging an opening by its body or an edge: from pointer distances to the sizes the core is asked about. */
export type Handle = "body" | "left" | "right" | "top" | "bottom";

export interface OpeningSize {
  left: number;
  sill: number;
  width: number;
  height: number;
}

/** Dragging snaps to this, in. */
const SNAP = 1 / 4;

const snap = (x: number) => Math.round(x / SNAP) * SNAP;

/** The opening on the drawing as the sizes of the job: from the left end, and from the plate up. */
export function sizeOf(rect: readonly number[], plate: number): OpeningSize {
  const [left = 0, top = 0, width = 0, height = 0] = rect;
  return { left, sill: plate - top - height, width, height };
}

/** The sizes after a drag by (dx right, dy down); an edge moves alone, the body moves all. Edges come to lie on whole quarter inches. */
export function dragged(from: OpeningSize, handle: Handle, dx: number, dy: number): OpeningSize {
  const to = { ...from };
  if (handle === "body") {
    to.left = snap(from.left + dx);
    to.sill = snap(from.sill - dy);
  } else if (handle === "left") {
    to.left = snap(from.left + dx);
    to.width = from.width + from.left - to.left;
  } else if (handle === "right") {
    to.width = snap(from.width + dx);
  } else if (handle === "top") {
    to.height = snap(from.height - dy);
  } else {
    to.sill = snap(from.sill - dy);
    to.height = from.height + from.sill - to.sill;
  }
  return to;
}

/** Width and height from one line such as `41 x 62 1/2`; null where it is not two sizes. The core reads the sizes themselves. */
export function twoSizes(text: string): [string, string] | null {
  const parts = text
    .split(/\s*[x×*,;]\s*|\s+by\s+/i)
    .map((p) => p.trim())
    .filter(Boolean);
  const [width, height] = parts;
  return parts.length === 2 && width && height ? [width, height] : null;
}
