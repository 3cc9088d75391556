import { expect, it } from "vitest";
import { sectionsOf } from "./sections";

it("cuts a window by sill, head and jamb, and a pipe or a deck through", () => {
  expect(sectionsOf("opening").slice(0, 3)).toEqual(["sill", "head", "jamb"]);
  expect(sectionsOf(undefined)).toEqual(sectionsOf("opening"));
  expect(sectionsOf("penetration")).toEqual(["through", "base", "top"]);
  expect(sectionsOf("line")).toEqual(sectionsOf("penetration"));
});
