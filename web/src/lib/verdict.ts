import type { Finding, WallView } from "../api/client";
import { s } from "../strings";

/** What is said of the whole wall in one line: good, bad or not finished, with what it leans on. */
export interface Said {
  kind: "good" | "bad" | "open";
  text: string;
  more: string;
}

export function verdictOf(v: WallView): Said {
  const glue = v.findings.filter((f) => f.severity === "glue").reduce((n, f) => n + 1 + f.also.length, 0);
  const notes = v.findings.filter((f) => f.severity === "note").length;
  const leaks = v.findings.some((f) => f.severity === "leak");
  const wrong = !leaks && v.findings.some((f) => f.severity === "pond") ? s.verdict.stands : s.verdict.leaks;
  const held = glue ? s.verdict.glue(glue) : s.verdict.laps;
  const more = v.verdict.finished || v.verdict.dry ? held : s.verdict.asItStands;
  return {
    kind: v.verdict.dry ? "good" : v.verdict.finished ? "bad" : "open",
    text: v.verdict.dry ? s.verdict.dry : v.verdict.finished ? wrong : s.verdict.unfinished,
    more: notes ? `${more} · ${s.verdict.notes(notes)}` : more,
  };
}

/** From worst to least. */
const ORDER: Finding["severity"][] = ["leak", "pond", "blocked", "order", "missing", "glue", "note"];

/** The worst of some findings; null where there is none. */
export function worstOf(findings: Finding[]): Finding["severity"] | null {
  return ORDER.find((severity) => findings.some((f) => f.severity === severity)) ?? null;
}
