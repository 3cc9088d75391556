import { immutableJSONPatch, type JSONPatchDocument } from "immutable-json-patch";
import type { Elevation, Finding, JobAnswer, JobState, WallView } from "../api/client";

/** A list of which what was kept is taken from the one before, and the rest stands between. */
function whole<T>(rest: T[], before: T[], runs: number[][]): T[] {
  const out: T[] = [];
  let next = 0;
  for (const [at = 0, from = 0, many = 0] of runs) {
    while (out.length < at) out.push(rest[next++] as T);
    for (let i = 0; i < many; i++) out.push(before[from + i] as T);
  }
  return out.concat(rest.slice(next));
}

/** A drawing with what it leaves out taken from the one it names: a piece that did not change stays the same thing. */
function redrawn(before: Elevation, now: Elevation): Elevation {
  const kept = now.kept;
  if (!kept) return now;
  const shapes = whole(now.shapes, before.shapes, kept.shapes);
  for (const k of kept.parts) {
    const [is, was] = [shapes[k.shape], before.shapes[k.from]];
    if (!is || !was) continue;
    const [parts, edges] = [whole(is.parts, was.parts, k.parts), whole(is.edges, was.edges, k.edges)];
    shapes[k.shape] = { ...is, parts, edges };
  }
  return { ...now, shapes, openings: whole(now.openings, before.openings, kept.openings), kept: null };
}

/** What is found, with what is left out taken from before. */
const found = (before: Finding[], view: WallView): Finding[] =>
  view.elevation.kept ? whole(view.findings, before, view.elevation.kept.findings) : view.findings;

/** A job as it is told, made of the one that is kept where only what changed is; null where it was told to who had another. */
export function wholeState(told: JobAnswer["state"], kept: JobState | null, planOf: string): JobState | null {
  const { job, change, ...rest } = told;
  if (job) return { ...rest, job };
  if (!change || !kept || kept.id !== told.id || change.have !== planOf) return null;
  // What did not change stays the same thing.
  const patched = change.patch.length
    ? (immutableJSONPatch(kept.job, change.patch as JSONPatchDocument) as JobState["job"])
    : kept.job;
  return { ...rest, job: patched };
}

/** An answer to a change with what it leaves out taken from before: what did not change stays the same thing. */
function merged(kept: WallView, view: WallView, since: NonNullable<WallView["since"]>): WallView {
  const known = new Map(kept.steps.map((s) => [s.id, s]));
  view.steps.forEach((s) => known.set(s.id, s));
  const order = since.steps.length ? since.steps : kept.steps.map((s) => s.id);
  const same = Object.fromEntries(since.same.map((part) => [part, kept[part as keyof WallView]]));
  return { ...view, ...same, steps: order.flatMap((id) => known.get(id) ?? []) };
}

/** An answer made whole with what is kept, of which the plan is called `planOf`; null where it was made for something else than that. */
export function completed(view: WallView, kept: WallView | null, planOf: string): WallView | null {
  const drawn = view.elevation.kept;
  if ((view.since || drawn || view.moment_only) && !kept) return null;
  if (!kept) return view;
  if ((view.since && view.since.have !== planOf) || (drawn && drawn.have !== kept.elevation.called)) return null;
  if (view.moment_only) {
    // The plan's parts stay the same things, so that nothing that shows them is drawn anew.
    const { steps, order, schools, cut_list, courses_why, build_ups, figures } = kept;
    view = { ...view, steps, order, schools, cut_list, courses_why, build_ups, figures };
  }
  if (view.since) view = merged(kept, view, view.since);
  return { ...view, findings: found(kept.findings, view), elevation: redrawn(kept.elevation, view.elevation) };
}
