import type { Finding, Verdict } from "../api/client";
import { s } from "../strings";

/** What is said of the whole wall in one line: how it looks, the words, and what comes after them. */
export interface Said {
  kind: "good" | "glue" | "bad" | "open";
  mark: string;
  text: string;
  more: string;
}

/** Marks of the six, told apart without colour. */
export const MARKS = ["", "▲", "≈", "✕", "◌", "◐", "●"] as const;

/** How each of the six looks. */
export function kindOf(state: number): Said["kind"] {
  return state >= 6 ? "good" : state === 5 ? "glue" : state === 4 ? "open" : "bad";
}

export function verdictOf(v: Verdict): Said {
  const unfinished = !v.finished;
  const places = v.leans.reduce((n, l) => n + l.places, 0);
  const odd = v.leans.filter((l) => !l.usual).length;
  const glue = odd ? s.verdict.unusual(odd) : s.verdict.glue(places);
  return {
    // A wall that is still being built is wet: that is no alarm.
    kind: unfinished ? "open" : kindOf(v.state),
    mark: unfinished ? MARKS[4] : (MARKS[v.state] ?? ""),
    text: s.verdict.says[unfinished ? 4 : v.state] ?? v.says,
    more: unfinished
      ? v.state < 4
        ? s.verdict.asItStands
        : s.verdict.dryAsItStands
      : v.state === 5
        ? glue
        : (s.verdict.more[v.state] ?? ""),
  };
}

/** From worst to least. */
const ORDER: Finding["severity"][] = ["leak", "pond", "blocked", "order", "missing", "fault", "glue", "note"];

/** The worst of some findings; null where there is none. */
export function worstOf(findings: Finding[]): Finding["severity"] | null {
  return ORDER.find((severity) => findings.some((f) => f.severity === severity)) ?? null;
}

/** Which of the six a place is in: by the worst that is found there; where nothing is, dry only once the wall is finished. */
export function stateOf(worst: Finding["severity"] | null, finished: boolean): number {
  if (worst === "leak") return 1;
  if (worst === "pond") return 2;
  if (worst === "glue") return 5;
  if (worst !== null && worst !== "note") return 3;
  return finished ? 6 : 4;
}
