import { describe, expect, it } from "vitest";
import type { AnswerSheet, SceneView, Worth } from "../api/client";
import { gradeBySheet, hintBySheet, mendsBySheet } from "./sheet";

const worth = (points: number, says: string, fault = ""): Worth => ({
  points,
  says: [{ good: points > 0, says, fault }],
});
const scene = {
  lay: [{ step: "a" }, { step: "b" }, { step: "c" }],
  elevation: { shapes: [{ piece: "x", name: "sill pan" }] },
  sections: [],
  apart: [],
  lies: [],
} as unknown as SceneView;

describe("an answer graded where nobody can be asked", () => {
  it("is an order by the places of its steps, less what was thrown away and asked for", () => {
    const sheet: AnswerSheet = {
      drill: "order",
      outcomes: [worth(100, "dry"), worth(0, "wet", "F12")],
      by_order: { "012": 0, "102": 0, "201": 1 },
      sticks: [],
      wasted: 10,
      wasted_says: "pieces were thrown away.",
      hint: 15,
      next: [
        { step: "b", says: "Next: b." },
        { step: "a", says: "Next: a." },
      ],
    };
    const of = (steps: string[], wasted = 0, hints = 0) =>
      gradeBySheet(sheet, scene, { drill: "order", steps, wasted, hints });
    expect(of(["b", "a", "c"])).toMatchObject({ points: 100, clean: true, missed: [] });
    expect(of(["a", "b", "c"], 1, 2)).toMatchObject({ points: 60, clean: false });
    expect(of(["c", "a", "b"])).toMatchObject({ points: 0, missed: ["F12"] });
    expect(of(["c", "b", "a"])).toBeNull();
    expect(of(["a", "b", "c"], 2)?.says.at(-1)?.says).toBe("2 pieces were thrown away.");
    expect(of(["a", "b", "c"])?.says).toHaveLength(1);
    const hinted = (steps: string[]) => hintBySheet(sheet, { drill: "order", steps, wasted: 0, hints: 0 });
    expect([hinted([]), hinted(["b"]), hinted(["a", "b"])]).toEqual(["Next: b.", "Next: a.", null]);
  });
  it("is marks that are found, named, missed or false alarms", () => {
    const target = {
      pieces: ["p"],
      named: { F02: worth(50, "found and named", "F02") },
      found: worth(35, "found"),
      missed: worth(0, "missed", "F02"),
      mends: [
        { title: "Leave it", worth: worth(0, "it leaks", "F24") },
        { title: "Take it back", worth: worth(15, "dry") },
      ],
      unmended: { points: 0, says: [] },
      hint: "Look at p.",
    };
    const other = { ...target, pieces: ["q"], hint: "Look at q." };
    const sheet: AnswerSheet = { drill: "find", targets: [target, other], alarm: 20, alarm_says: "is right", hint: 15 };
    const of = (marks: { piece: string; fault: string }[], mends: number[] = []) =>
      gradeBySheet(sheet, scene, { drill: "find", marks, hints: 0, mends });
    expect(of([{ piece: "p", fault: "F02" }])?.points).toBe(50);
    const all = of([
      { piece: "p", fault: "" },
      { piece: "q", fault: "F02" },
      { piece: "x", fault: "F02" },
    ]);
    expect(all?.points).toBe(65);
    expect(all?.says.at(-1)).toEqual({ good: false, says: "sill pan: is right", fault: "" });
    // Repairs are those of the mistakes that were found, in their order.
    const second = [{ piece: "q", fault: "F02" }];
    expect([of(second, [1])?.points, of(second, [0])?.points, of(second)?.points]).toEqual([65, 50, 50]);
    expect(mendsBySheet(sheet, second)).toEqual([{ piece: "q", titles: ["Leave it", "Take it back"] }]);
    expect(mendsBySheet({ drill: "call", questions: [] }, second)).toBeNull();
    const hinted = (marks: { piece: string; fault: string }[]) =>
      hintBySheet(sheet, { drill: "find", marks, hints: 0, mends: [] });
    expect([hinted([]), hinted(second), hinted([{ piece: "p", fault: "" }])]).toEqual([
      "Look at p.",
      "Look at p.",
      "Look at q.",
    ]);
    expect(hintBySheet(sheet, { drill: "call", calls: [] })).toBeNull();
  });
  it("is sizes by how near they are, calls and repairs by what was chosen", () => {
    const size = {
      length: 38.5,
      within: 0.0625,
      right: worth(100, "right"),
      long: worth(60, "long"),
      short: worth(0, "short"),
    };
    const measured = (length: string) =>
      gradeBySheet({ drill: "measure", sizes: [size] }, scene, {
        drill: "measure",
        sizes: [{ length, width: "6 in" }],
      });
    expect([measured("38.5625 in"), measured("40 in"), measured("38 in")].map((g) => g?.points)).toEqual([100, 60, 0]);
    const questions: [Worth, Worth, Worth][] = [[worth(0, "go"), worth(100, "prepare"), worth(50, "wait")]];
    const called = (call: "go" | "prepare" | "wait") =>
      gradeBySheet({ drill: "call", questions }, scene, { drill: "call", calls: [call] })?.points;
    expect([called("go"), called("prepare"), called("wait")]).toEqual([0, 100, 50]);
    const found = [[worth(0, "no"), worth(60, "does")]];
    const mended = (choice: number) =>
      gradeBySheet({ drill: "repair", found }, scene, { drill: "repair", choices: [choice] })?.points ?? null;
    expect([mended(0), mended(1), mended(2)]).toEqual([0, 60, null]);
  });
});
