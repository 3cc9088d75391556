import type { Finding, Shape, StepView } from "../api/client";
import type { Filter } from "../stores/job";

/** Steps that a filter leaves: by trade, phase, product placed, and feature of the findings chosen. */
export function stepsLeft(steps: StepView[], shapes: Shape[], findings: Finding[], f: Filter): StepView[] {
  const letters = new Set(shapes.filter((x) => x.product === f.product).map((x) => x.name));
  const at = new Set(findingsLeft(findings, f).flatMap((x) => x.features));
  return steps.filter(
    (x) =>
      (f.trade === null || x.trade === f.trade) &&
      (f.phase === null || x.phase === f.phase) &&
      (f.product === null || x.cuts.some((c) => letters.has(c.name))) &&
      (f.fault === null || at.size === 0 || x.opening === "" || at.has(x.opening)),
  );
}

export function findingsLeft(findings: Finding[], f: Filter): Finding[] {
  return f.fault === null ? findings : findings.filter((x) => x.code === f.fault);
}

/** True where a piece is not what is looked at. */
export function isFaint(shape: Shape, findings: Finding[], f: Filter): boolean {
  if (f.product !== null) return shape.product !== f.product;
  if (f.fault !== null) {
    const told = findingsLeft(findings, f);
    // Once what was looked at is mended, nothing is left to stand out.
    if (told.length === 0) return false;
    const at = new Set(told.flatMap((x) => x.features));
    const pieces = new Set(told.flatMap((x) => x.pieces));
    return !pieces.has(shape.piece) && !at.has(shape.piece.split("/")[0] ?? "");
  }
  return false;
}
