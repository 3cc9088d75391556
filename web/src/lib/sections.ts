import type { SectionKind } from "../api/client";

/** By which cuts a feature is shown, in the order in which they are gone through. */
export function sectionsOf(feature: string | undefined): SectionKind[] {
  return feature && feature !== "opening" ? ["through", "base", "top"] : ["sill", "head", "jamb", "base", "top"];
}
