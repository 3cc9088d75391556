import { describe, expect, it } from "vitest";
import { found, type Findable } from "./find";

const of = (kind: Findable["kind"], id: string, label: string, more = ""): Findable => ({ kind, id, label, more });
const all = [
  of("room", "wall", "Wall"),
  of("command", "undo", "Undo"),
  of("place", "W1", "W1 · Reading window", "36 × 48"),
  of("step", "W1/pan", "Sill pan", "W1 · Reading window"),
  of("step", "W2/pan", "Sill pan", "W2 · Loft window"),
  of("piece", "W2/pan", "sill pan", "P · W2"),
  of("figure", "pan_up_turn", "Pan up-turn", "6 in"),
];

describe("finding by typing", () => {
  it("shows rooms and commands before anything is typed", () => {
    expect(found(all, "  ").map((x) => x.id)).toEqual(["wall", "undo"]);
  });

  it("wants every word, wherever it stands", () => {
    expect(found(all, "pan w2").map((x) => `${x.kind} ${x.id}`)).toEqual(["step W2/pan", "piece W2/pan"]);
    expect(found(all, "pan chimney")).toEqual([]);
  });

  it("puts a whole word before the beginning of a longer one", () => {
    const like = [
      of("step", "W10/pan", "Sill pan", "W10 · Loft"),
      of("step", "W1/pan", "Sill pan", "W1 · Reading window"),
    ];
    expect(found(like, "pan w1").map((x) => x.id)).toEqual(["W1/pan", "W10/pan"]);
  });

  it("puts first what begins with what was typed", () => {
    expect(found(all, "pan")[0]?.id).toBe("pan_up_turn");
  });

  it("never shows more than fits", () => {
    const many = Array.from({ length: 500 }, (_, i) => of("step", `s${i}`, `Course ${i}`));
    expect(found(many, "course").length).toBe(40);
  });
});
