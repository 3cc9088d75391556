import { describe, expect, it } from "vitest";
import type { Finding, StepView } from "../api/client";
import { folded, type Around, type FoldBy } from "./fold";

const step = (id: string, opening: string, trade: StepView["trade"], ends: number) =>
  ({ id, opening, trade, ends, starts: ends - 1, removed: false, title: id, cuts: [] }) as unknown as StepView;
const steps = [
  step("course-1", "", "barrier", 1),
  step("W1/pan", "W1", "barrier", 2),
  step("W2/pan", "W2", "barrier", 3),
  step("W1/set", "W1", "window", 4),
  step("P1/boot", "P1", "barrier", 5),
];
const finding = (severity: Finding["severity"], features: string[], walls: number[] = []) =>
  ({ severity, features, walls }) as unknown as Finding;
const around: Around = {
  walls: ["South", "East"],
  openings: [
    { id: "W1", wall: 0 },
    { id: "W2", wall: 1 },
    { id: "P1", wall: 1 },
  ],
  names: new Map([
    ["W1", "Reading window"],
    ["W2", "Loft window"],
    ["P1", "Vent"],
  ]),
  findings: [finding("glue", ["W2"], [1]), finding("leak", ["P1"], [1]), finding("note", ["W1"], [0])],
  done: 3,
  finished: true,
  days: [
    { on: "2026-03-02", steps: ["course-1", "W1/pan"] },
    { on: "2026-03-03", steps: ["W1/pan", "W1/set"] },
  ],
  words: {
    wallItself: "The walls",
    trades: { lead: "Lead", barrier: "Barrier", window: "Window", cladding: "Cladding" },
    day: (on) => on,
    noDay: "No day",
  },
};

describe("the order of work", () => {
  it.each<FoldBy>(["order", "place", "trade", "day"])("holds every step once, folded by %s", (by) => {
    const all = folded(steps, by, around).flatMap((f) => f.steps.map((x) => x.id));
    expect([...all].sort()).toEqual(steps.map((x) => x.id).sort());
  });

  it("folds walls, places on them, and says what is found and how much is done of each", () => {
    const said = folded(steps, "place", around).map((f) => [f.key, f.level, f.done, f.state]);
    expect(said).toEqual([
      ["", 0, 1, 6],
      ["wall-0", 0, 1, 6],
      ["W1", 1, 1, 6],
      ["wall-1", 0, 1, 1],
      ["W2", 1, 1, 5],
      ["P1", 1, 0, 1],
    ]);
  });

  it("stands by place alone where there is one wall", () => {
    const one = folded(steps, "place", { ...around, walls: ["South"], openings: [{ id: "W1", wall: 0 }] });
    expect(one.map((f) => f.key)).toEqual(["", "W1"]);
  });

  it("puts a step that takes two days on its first", () => {
    const [first, second] = folded(steps, "day", around);
    expect(first?.steps.map((x) => x.id)).toEqual(["course-1", "W1/pan"]);
    expect(second?.steps.map((x) => x.id)).toEqual(["W1/set"]);
  });
});
