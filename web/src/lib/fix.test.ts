import { describe, expect, it } from "vitest";
import { editOf, stepOf } from "./fix";

describe("what a finding proposes", () => {
  it("becomes the change that does it", () => {
    expect(editOf({ do: "move", step: "W1/head", before: null })).toEqual({
      edit: "move_step",
      step: "W1/head",
      before: null,
    });
    expect(editOf({ do: "restore", step: "W1/patches" })).toEqual({ edit: "restore_step", step: "W1/patches" });
    const deviation = { kind: "fish-mouth", piece: "W1/head-flashing" } as const;
    expect(editOf({ do: "put-right", deviation })).toEqual({ edit: "set_as_built", deviation, so: false });
    expect(editOf({ do: "figure", id: "lap_horizontal" })).toEqual({ edit: "set_figure", id: "lap_horizontal" });
  });
  it("points to a step only where it is about one", () => {
    expect(stepOf({ do: "restore", step: "a" })).toBe("a");
    expect(stepOf({ do: "figure", id: "lap_horizontal" })).toBeNull();
  });
});
