import { describe, expect, it } from "vitest";
import type { JobState, Question } from "../api/client";
import { foldedOf, ownAnswers, partsOf, questionsOf } from "./answers";

const state = {
  job: {
    wall: { schools: { barrier: "loose" }, corners: [{ schools: { barrier: "fluid" } }] },
    openings: [
      { id: "W1", schools: { sill: "metal" } },
      { id: "W2", schools: {} },
    ],
  },
} as unknown as JobState;

describe("answers of one opening", () => {
  it("are those of its wall, or else of all walls, and its own", () => {
    expect(ownAnswers(state, "W1", 0)).toEqual({ barrier: "loose", sill: "metal" });
    expect(ownAnswers(state, "W2", 1)).toEqual({ barrier: "fluid" });
  });
  it("stand in front once they are given, and are folded away while nobody gave what is seldom given", () => {
    const all = [
      { id: "cut", seldom: false, own: false },
      { id: "dam", seldom: true, own: false },
      { id: "lining", seldom: true, own: true },
    ] as unknown as Question[];
    const ids = (list: Question[]) => list.map((q) => q.id);
    const { front, folded } = foldedOf(all);
    expect([ids(front), ids(folded)]).toEqual([["cut", "lining"], ["dam"]]);
  });
  it("are asked by the wall's questions and its own", () => {
    const all = [
      { id: "barrier", choice: "fluid", openings: [] },
      { id: "cut", choice: "flush", openings: ["W1", "W2"] },
      { id: "sill", choice: "metal", openings: ["W1"] },
      { id: "sill", choice: "wrap", openings: ["W2", "W3"] },
    ] as unknown as Question[];
    const asked = (opening: string) => questionsOf(all, opening).map((q) => q.choice);
    expect(asked("W2")).toEqual(["fluid", "flush", "wrap"]);
    expect(asked("W1")).toEqual(["fluid", "flush", "metal"]);
    expect(asked("")).toEqual(["fluid"]);
  });
  it("stand with those about the same part, in the order in which the first of each is decided", () => {
    const all = [
      { id: "unit", about: "unit" },
      { id: "sill", about: "sill" },
      { id: "cut", about: "unit" },
    ] as unknown as Question[];
    const told = partsOf(all).map((p) => [p.about, p.questions.map((q) => q.id)]);
    expect(told).toEqual([
      ["unit", ["unit", "cut"]],
      ["sill", ["sill"]],
    ]);
  });
});
