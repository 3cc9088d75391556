import type { WallView } from "../api/client";

/** An answer to a change with what it leaves out taken from before: what did not change stays the same thing. */
export function merged(kept: WallView, view: WallView, since: NonNullable<WallView["since"]>): WallView {
  const known = new Map(kept.steps.map((s) => [s.id, s]));
  view.steps.forEach((s) => known.set(s.id, s));
  const order = since.steps.length ? since.steps : kept.steps.map((s) => s.id);
  const same = Object.fromEntries(since.same.map((part) => [part, kept[part as keyof WallView]]));
  return { ...view, ...same, steps: order.flatMap((id) => known.get(id) ?? []) };
}
