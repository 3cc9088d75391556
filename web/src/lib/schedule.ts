import type { Field, ProblemDocument, Schedule } from "../api/client";
import { tokenHeader } from "../api/token";
import { s } from "../strings";

/** Columns that were mapped by hand, as the server reads them: `2:width,3:none`. */
export function mapped(mapping: Map<number, Field | null>): string {
  return [...mapping].map(([column, field]) => `${column}:${field ?? "none"}`).join(",");
}

/** Has a table understood; nothing is changed. */
export async function readSchedule(
  job: number,
  file: Blob,
  unit: string,
  columns: string,
): Promise<{ schedule: Schedule | null; error: string }> {
  const query = new URLSearchParams({ unit });
  if (columns) query.set("columns", columns);
  try {
    const response = await fetch(`/api/jobs/${job}/schedule?${query}`, {
      method: "POST",
      headers: { "Content-Type": "application/octet-stream", ...tokenHeader() },
      body: file,
    });
    const body: unknown = await response.json();
    if (response.ok) return { schedule: body as Schedule, error: "" };
    const problem = body as ProblemDocument;
    return { schedule: null, error: problem.detail || s.errors.offline };
  } catch {
    return { schedule: null, error: s.errors.offline };
  }
}
