import type { LocationQuery } from "vue-router";

/** What is chosen on the wall, as it stands in the address. */
export interface Chosen {
  place: string | null;
  step: string | null;
  finding: number | null;
}
const one = (x: LocationQuery[string] | undefined) => (typeof x === "string" && x !== "" ? x : null);
export function chosenIn(query: LocationQuery): Chosen {
  const finding = Number(one(query.finding) ?? "");
  return {
    place: one(query.place),
    step: one(query.step),
    finding: Number.isInteger(finding) && finding > 0 ? finding : null,
  };
}
export function queryOf(c: Chosen): Record<string, string> {
  return {
    ...(c.place ? { place: c.place } : {}),
    ...(c.step ? { step: c.step } : {}),
    ...(c.finding ? { finding: String(c.finding) } : {}),
  };
}
export const same = (a: Chosen, b: Chosen) => JSON.stringify(queryOf(a)) === JSON.stringify(queryOf(b));
