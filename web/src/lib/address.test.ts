import { describe, expect, it } from "vitest";
import { chosenIn, queryOf } from "./address";

describe("the address of what is chosen", () => {
  it.each([
    { place: "W1", step: "W1/pan", finding: 3 },
    { place: null, step: null, finding: null },
    { place: null, step: "course-2", finding: null },
  ])("reads as it was written: %o", (chosen) => {
    expect(chosenIn(queryOf(chosen))).toEqual(chosen);
  });

  it("takes nothing from nonsense", () => {
    const none = { place: null, step: null, finding: null };
    expect(chosenIn({ place: ["a", "b"], finding: "-1", step: "" })).toEqual(none);
    expect(chosenIn({ finding: "x", place: null })).toEqual(none);
  });
});
