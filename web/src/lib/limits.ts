import limits from "../api/limits.gen.json";
import { s } from "../strings";

/** The least and most of each field, as the core says them. */
export type Limited = keyof typeof limits;
export interface Limit {
  what: string;
  least: number | string;
  most: number | string;
  remedy: string;
}
export const limit = (of: Limited): Limit => limits[of];
/** What a field says of itself. */
export const range = (of: Limited) => s.sizes.range(`${limit(of).least}`, `${limit(of).most}`);
/** The most characters a field takes. */
export const longest = (of: Limited) => Number(limit(of).most);

/** What is wrong with a number in a field; null where nothing is. Lengths are read by the core. */
export function outside(of: Limited, n: number): string | null {
  const { what, least, most, remedy } = limit(of);
  if (typeof least !== "number" || typeof most !== "number" || (n >= least && n <= most)) return null;
  return s.errors.outside(what, n, least, most, remedy);
}
