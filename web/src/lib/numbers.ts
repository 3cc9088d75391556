import { s } from "../strings";
import { limit, outside, type Limited } from "./limits";

/** A number as people type it, with a comma or a point; `null` where nothing is typed, `undefined` where it is no number. */
export function typedNumber(text: string): number | null | undefined {
  const bare = text.trim().replace(",", ".");
  if (bare === "") return null;
  return /^[-+]?(\d+\.?\d*|\.\d+)$/.test(bare) ? Number(bare) : undefined;
}

/** What is wrong with what was typed into a field that takes a number; null where nothing is. An empty field passes only where it may be empty. */
export function wrongNumber(label: string, typed: string, of: Limited, empty: boolean): string | null {
  const n = typedNumber(typed);
  if (n === undefined || (n === null && !empty)) return s.errors.notNumber(label, typed);
  return n === null || typeof limit(of).least === "string" ? null : outside(of, n);
}
