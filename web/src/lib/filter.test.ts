import { describe, expect, it } from "vitest";
import type { Finding, Shape, StepView } from "../api/client";
import { findingsLeft, isFaint, stepsLeft } from "./filter";

const none = { trade: null, phase: null, product: null, fault: null };
const step = (id: string, more: Partial<StepView>) => ({ id, opening: "", cuts: [], ...more }) as unknown as StepView;
const shape = (piece: string, name: string, product: string) => ({ piece, name, product }) as unknown as Shape;
const finding = (code: string, features: string[], pieces: string[]) =>
  ({ code, features, pieces }) as unknown as Finding;

const steps = [
  step("courses", { trade: "barrier", phase: "barrier", cuts: [{ letter: "C", name: "sheet", size: "" }] }),
  step("W1/set", { trade: "window", phase: "unit", opening: "W1" }),
  step("W2/set", { trade: "window", phase: "unit", opening: "W2" }),
];
const shapes = [
  shape("course-1", "sheet", "Sheet"),
  shape("W1/jamb", "jamb", "Tape"),
  shape("W2/jamb", "jamb", "Tape"),
];
const findings = [finding("F04", ["W1"], ["W1/jamb"]), finding("F10", ["W2"], [])];
const left = (f: Partial<typeof none>) => stepsLeft(steps, shapes, findings, { ...none, ...f }).map((x) => x.id);

describe("filters", () => {
  it("leaves everything where nothing is chosen", () => {
    expect(left({})).toEqual(["courses", "W1/set", "W2/set"]);
    expect(shapes.some((x) => isFaint(x, findings, none))).toBe(false);
  });
  it("leaves one trade, one product, and what is at a finding with the steps of the wall", () => {
    expect(left({ trade: "window" as never })).toEqual(["W1/set", "W2/set"]);
    expect(left({ product: "Sheet" as never })).toEqual(["courses"]);
    expect(left({ fault: "F04" as never })).toEqual(["courses", "W1/set"]);
    expect(findingsLeft(findings, { ...none, fault: "F10" as never })).toEqual([findings[1]]);
  });
  it("makes nothing faint once the finding is mended", () => {
    expect(shapes.some((x) => isFaint(x, [], { ...none, fault: "F04" as never }))).toBe(false);
  });
  it("makes the other pieces faint", () => {
    expect(shapes.map((x) => isFaint(x, findings, { ...none, product: "Tape" as never }))).toEqual([
      true,
      false,
      false,
    ]);
    expect(shapes.map((x) => isFaint(x, findings, { ...none, fault: "F04" as never }))).toEqual([true, false, true]);
  });
});
