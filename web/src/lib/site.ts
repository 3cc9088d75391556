import type { Check, RecordEvent, SiteSpec, StepState, StepView } from "../api/client";

/** An id of version 7: made by the device, in order of time, so that what is sent twice is known again. */
export function newId(now: number, random: Uint8Array): string {
  const bytes = [...random.slice(0, 16)];
  let time = Math.floor(now);
  for (let i = 5; i >= 0; i--) {
    bytes[i] = time % 256;
    time = Math.floor(time / 256);
  }
  bytes[6] = 0x70 | ((bytes[6] ?? 0) & 0x0f);
  bytes[8] = 0x80 | ((bytes[8] ?? 0) & 0x3f);
  const hex = bytes.map((b) => b.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

/** How a step stands with what waits to be sent laid over what the record says. */
export function standsNow(known: StepState["now"], waiting: RecordEvent[]): StepState["now"] {
  let now = known;
  for (const { what } of waiting) {
    if (what.is === "begun" && now === "open") now = "in-hand";
    else if (what.is === "done" || what.is === "otherwise") now = "done";
    else if (what.is === "left_out") now = "left-out";
    else if ((what.is === "reading" || what.is === "looked") && what.good === false) now = "failed";
    else if (what.is === "mended") now = "failed";
  }
  return now;
}
export const isOver = (now: StepState["now"]) => now === "done" || now === "looked-at" || now === "left-out";

/** What was last read, check by check, as it was written. */
export type Readings = Map<string, string[]>;

/** The mean of readings, to a hundredth. */
export const average = (values: number[]): number =>
  Math.round((values.reduce((a, b) => a + b, 0) / Math.max(1, values.length)) * 100) / 100;

/** Minutes by which this device's clock is ahead of the server's, by the date of an answer; 0 where that is not said or next to nothing. */
export function clockAhead(now: number, date: string | null): number {
  const there = date === null ? Number.NaN : Date.parse(date);
  const minutes = Math.round((now - there) / 60000);
  return Number.isNaN(minutes) || Math.abs(minutes) < 3 ? 0 : minutes;
}

/** Whether readings are as a check asks: null while some are missing or where nobody judges. Its bounds come from the core. */
export function fits(check: Check, values: number[]): boolean | null {
  const near = 1e-6;
  const [least, most] = [check.least ?? -Infinity, check.most ?? Infinity];
  if (values.some((v) => v < least - near || v > most + near)) return false;
  if (check.apart != null && Math.max(...values) - Math.min(...values) > check.apart + near) return false;
  if (check.judged === "bow") {
    const [one = 0, middle = 0, other = 0] = values;
    return values.length < 3 ? null : Math.abs(middle - (one + other) / 2) <= (check.tolerance ?? 0) + near;
  }
  if (check.least == null && check.most == null && check.apart == null) return null;
  return values.length < check.readings ? null : true;
}

/** Whether one reading of a check is as it should be; where they are held against each other, all of them are or are not. */
export function fitsAt(check: Check, values: (number | undefined)[], at: number): boolean | null {
  const value = values[at];
  if (value === undefined) return null;
  if (check.judged === "within" || check.judged === "least" || check.judged === "most")
    return fits({ ...check, readings: 1 }, [value]);
  return fits(
    check,
    values.filter((v) => v !== undefined),
  );
}

/** Inches from a whole number and a fraction, as a decimal number in text that is exact. */
export function reading(whole: number, sixteenths: number, negative: boolean): string {
  const value = whole + sixteenths / 16;
  return `${negative && value > 0 ? "-" : ""}${value}`;
}
const sixteenth = (n: number): string => {
  let [a, b] = [n, 16];
  while (a > 0 && a % 2 === 0) [a, b] = [a / 2, b / 2];
  return a === 0 ? "" : `${a}/${b}`;
};
/** A reading in inches as people say it. */
export function asInches(text: string): string {
  const value = Number(text);
  const [whole, rest] = [Math.floor(Math.abs(value)), Math.round((Math.abs(value) % 1) * 16)];
  const part = sixteenth(rest);
  return `${value < 0 ? "−" : ""}${whole > 0 || !part ? whole : ""}${whole > 0 && part ? " " : ""}${part}"`;
}

/** Places as one comes to them: those of the walls first, then from the one where work was last done to those farthest from it; what is finished last. */
export function byNearness<P extends { id: string; next: unknown; today?: boolean }>(
  places: P[],
  x: (id: string) => number,
  last: string | null,
): P[] {
  const from = last === null ? 0 : x(last);
  const later = (p: P) => (p.next === null ? 1e9 : p.today ? -1e6 : 0);
  const away = (p: P) => later(p) + (p.id === "" ? -1 : Math.abs(x(p.id) - from));
  return places
    .map((p) => ({ p, away: away(p) }))
    .sort((a, b) => a.away - b.away)
    .map((q) => q.p);
}

const DAY_MIN = 1440;
/** Steps that the calendar which was agreed on has on a day, as 2026-03-16. */
export function stepsOn(day: string, kept: SiteSpec["kept"]): Set<string> {
  const since = kept ? (Date.parse(day) - Date.parse(kept.from)) / 60_000 : Number.NaN;
  const on = Object.entries(kept?.tasks ?? {}).filter(([, at]) => {
    const from = (at[1] ?? 0) - since;
    return from >= 0 && from < DAY_MIN;
  });
  return new Set(on.map(([task]) => task.split(" ")[0] ?? task));
}

/** A day as people's own clock has it, as 2026-03-16. */
export const dayOf = (now: Date): string =>
  [now.getFullYear(), now.getMonth() + 1, now.getDate()].map((n) => String(n).padStart(2, "0")).join("-");

/** The first step of a place that is neither done nor left out. */
export function nextOf(steps: StepView[], now: (step: string) => StepState["now"]): StepView | null {
  return steps.find((x) => !isOver(now(x.id))) ?? null;
}

/** What holds a step: a check before it that somebody else has to look at, or one before it, or its own, that is not as it should be and stops all else. */
export function heldBy(
  steps: StepView[],
  at: string,
  checks: Check[],
  said: (check: string) => boolean | null | undefined,
): Check | null {
  const before = new Set(
    steps
      .slice(
        0,
        steps.findIndex((x) => x.id === at),
      )
      .map((x) => x.id),
  );
  const waits = (c: Check) => c.by === "other" && before.has(c.step) && said(c.id) !== true;
  const stops = (c: Check) => c.stops && (before.has(c.step) || c.step === at) && said(c.id) === false;
  return checks.find((c) => !c.removed && (stops(c) || waits(c))) ?? null;
}
