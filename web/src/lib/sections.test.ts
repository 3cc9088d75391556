import { expect, it } from "vitest";
import type { JobState } from "../api/client";
import { sectionsOf } from "./sections";

const job = (feature: string | undefined, corners = 0) =>
  ({ openings: [{ feature }], wall: { corners: Array(corners).fill({}) } }) as unknown as JobState["job"];

it("cuts a window by sill, head and jamb, and a pipe or a deck through", () => {
  expect(sectionsOf(job("opening"), 0).slice(0, 3)).toEqual(["sill", "head", "jamb"]);
  expect(sectionsOf(undefined, 0)).toEqual(sectionsOf(job("opening"), 0));
  expect(sectionsOf(job("penetration"), 0)).toEqual(["through", "base", "top"]);
  expect(sectionsOf(job("line"), 0)).toEqual(sectionsOf(job("penetration"), 0));
});

it("cuts a corner where the walls have one", () => {
  expect(sectionsOf(job("opening", 1), 0).at(-1)).toBe("corner");
  expect(sectionsOf(job("line", 2), 0)).toEqual(["through", "base", "top", "corner"]);
});
