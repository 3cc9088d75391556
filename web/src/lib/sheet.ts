import type { AnswerSheet, GradedView, Mendable, PracticeAnswer, SceneView, Worth } from "../api/client";
import { piecesOf } from "./practice";

/** A size as it is answered, such as "38.5 in", in inches. */
const inches = (text: unknown) => Number.parseFloat(String(text));
/** Less is arithmetic, not a cut. */
const ROUNDING = 1e-6;

/** What an answer gives by its sheet, part by part, and what is taken off; null where the sheet has no such answer. */
function parts(sheet: AnswerSheet, scene: SceneView, answer: PracticeAnswer): { all: Worth[]; off: number } | null {
  if (sheet.drill === "order" && answer.drill === "order") {
    const places = answer.steps.map((step) => scene.lay.findIndex((l) => l.step === step)).join("");
    const outcome = sheet.outcomes[sheet.by_order[places] ?? -1];
    const wasted = answer.wasted ?? 0;
    const off = wasted * sheet.wasted + (answer.hints ?? 0) * sheet.hint;
    if (!outcome) return null;
    const thrown: Worth = { points: 0, says: [{ good: false, says: `${wasted} ${sheet.wasted_says}`, fault: "" }] };
    return { all: wasted > 0 ? [outcome, thrown] : [outcome], off };
  }
  if (sheet.drill === "find" && answer.drill === "find") {
    let found = 0;
    const all = sheet.targets.flatMap((t) => {
      const here = answer.marks.filter((m) => t.pieces.includes(m.piece));
      if (here.length === 0) return [t.missed];
      const named = here.map((m) => t.named[m.fault ?? ""]).find((w) => w !== undefined);
      const mend = t.mends[answer.mends?.[found++] ?? -1];
      return [named ?? t.found, mend?.worth ?? t.unmended];
    });
    const alarms = answer.marks.filter((m) => !sheet.targets.some((t) => t.pieces.includes(m.piece)));
    const names = new Map(piecesOf(scene).map((p) => [p.id, p.name]));
    for (const m of alarms) {
      const says = `${names.get(m.piece) ?? m.piece}: ${sheet.alarm_says}`;
      all.push({ points: -sheet.alarm, says: [{ good: false, says, fault: "" }] });
    }
    return { all, off: (answer.hints ?? 0) * sheet.hint };
  }
  if (sheet.drill === "measure" && answer.drill === "measure") {
    const all = sheet.sizes.map((size, i) => {
      const by = inches(answer.sizes[i]?.length) - size.length;
      return by < -size.within - ROUNDING ? size.short : by > size.within + ROUNDING ? size.long : size.right;
    });
    return { all, off: 0 };
  }
  if (sheet.drill === "call" && answer.drill === "call") {
    const all = sheet.questions.map((q, i) => q[["go", "prepare", "wait"].indexOf(answer.calls[i] ?? "")]);
    return all.every((w) => w !== undefined) ? { all: all as Worth[], off: 0 } : null;
  }
  if (sheet.drill === "repair" && answer.drill === "repair") {
    const all = sheet.found.map((choices, i) => choices[answer.choices[i] ?? -1]);
    return all.every((w) => w !== undefined) ? { all: all as Worth[], off: 0 } : null;
  }
  return null;
}

/** What can be done about each mistake that was found with some marks, by a sheet; null where it is of another drill. */
export function mendsBySheet(sheet: AnswerSheet, marks: { piece: string }[]): Mendable[] | null {
  if (sheet.drill !== "find") return null;
  return sheet.targets.flatMap((t) => {
    const mark = marks.find((m) => t.pieces.includes(m.piece));
    return mark ? [{ piece: mark.piece, titles: t.mends.map((m) => m.title) }] : [];
  });
}

/** The hint that would be given for what was answered so far, by a sheet; null where there is none. */
export function hintBySheet(sheet: AnswerSheet, answer: PracticeAnswer): string | null {
  if (sheet.drill === "order" && answer.drill === "order") {
    return sheet.next.find((h) => !answer.steps.includes(h.step))?.says ?? null;
  }
  if (sheet.drill === "find" && answer.drill === "find") {
    const left = sheet.targets.find((t) => !answer.marks.some((m) => t.pieces.includes(m.piece)));
    return left?.hint || null;
  }
  return null;
}

/** A scene is clean from so many points on. */
const CLEAN = 99.5;

/** An answer graded by its scene's sheet, where nobody can be asked; null where the sheet does not have it. */
export function gradeBySheet(sheet: AnswerSheet, scene: SceneView, answer: PracticeAnswer): GradedView | null {
  const got = parts(sheet, scene, answer);
  if (!got) return null;
  const points = Math.round(Math.min(100, Math.max(0, got.all.reduce((sum, w) => sum + w.points, 0) - got.off)));
  const says = got.all.flatMap((w) => w.says);
  const faults = (good: boolean) => [...new Set(says.filter((t) => t.good === good && t.fault).map((t) => t.fault))];
  return {
    points,
    clean: points >= CLEAN,
    says,
    known: faults(true),
    missed: faults(false),
    elevation: null,
    drop: [],
  };
}
