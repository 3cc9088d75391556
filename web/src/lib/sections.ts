import type { JobState, SectionKind } from "../api/client";

/** By which cuts a feature is shown, in the order in which they are gone through; a corner where the walls have one. */
export function sectionsOf(job: JobState["job"] | undefined, opening: number): SectionKind[] {
  const feature = job?.openings?.[opening]?.feature ?? "opening";
  const cuts: SectionKind[] = feature === "opening" ? ["sill", "head", "jamb"] : ["through"];
  return [...cuts, "base", "top", ...(job?.wall.corners?.length ? (["corner"] as const) : [])];
}

/** A level cut, seen from above; else it is upright. */
export const isLevel = (kind: SectionKind) => kind === "jamb" || kind === "corner";
