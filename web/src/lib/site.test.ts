import { expect, it } from "vitest";
import type { Check, RecordEvent, StepView } from "../api/client";
import {
  asInches,
  average,
  byNearness,
  dayOf,
  clockAhead,
  fits,
  fitsAt,
  heldBy,
  newId,
  nextOf,
  reading,
  standsNow,
  stepsOn,
} from "./site";

it("makes ids of version 7 that sort by time", () => {
  const bytes = new Uint8Array(16).fill(255);
  const id = newId(Date.UTC(2026, 10, 29, 7, 5), bytes);
  expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  expect(parseInt(id.replaceAll("-", "").slice(0, 12), 16)).toBe(Date.UTC(2026, 10, 29, 7, 5));
  expect(newId(1000, bytes) < newId(1001, new Uint8Array(16))).toBe(true);
});

it("lays what waits over what is known", () => {
  const event = (what: object) => ({ what }) as RecordEvent;
  expect(standsNow("open", [])).toBe("open");
  expect(standsNow("open", [event({ is: "begun" })])).toBe("in-hand");
  expect(standsNow("done", [event({ is: "begun" })])).toBe("done");
  expect(standsNow("in-hand", [event({ is: "done" }), event({ is: "looked", good: false })])).toBe("failed");
  expect(standsNow("open", [event({ is: "left_out" })])).toBe("left-out");
});

it("holds readings against the bounds of the check", () => {
  const check = (bounds: object) => ({ readings: 2, least: null, most: null, apart: null, ...bounds }) as Check;
  const within = check({ least: 35.75, most: 36.25 });
  expect(fits(within, [36])).toBe(null);
  expect(fits(within, [36.5])).toBe(false);
  expect(fits(within, [36.25, 35.75])).toBe(true);
  expect(fits(check({ apart: 0.25 }), [60, 59])).toBe(false);
  expect(fits(check({ apart: 0.25 }), [60, 60.25])).toBe(true);
  expect(fits(check({}), [1, 2])).toBe(null);
});

it("writes inches exactly and reads them as people say them", () => {
  expect([reading(36, 7, false), reading(0, 1, true), reading(0, 0, true)]).toEqual(["36.4375", "-0.0625", "0"]);
  expect(["36.4375", "-0.0625", "0", "36", "0.5"].map(asInches)).toEqual(['36 7/16"', '−1/16"', '0"', '36"', '1/2"']);
});

it("knows what comes next and what holds it", () => {
  const steps = ["a", "b", "c"].map((id) => ({ id })) as StepView[];
  const done = (id: string) => (id === "a" ? "done" : "open");
  expect(nextOf(steps, done)?.id).toBe("b");
  expect(nextOf(steps, () => "done")).toBe(null);
  const checks = [{ id: "a:look", step: "a", by: "other", removed: false }] as Check[];
  expect(heldBy(steps, "b", checks, () => false)?.id).toBe("a:look");
  expect(heldBy(steps, "b", checks, () => true)).toBe(null);
  expect(heldBy(steps, "a", checks, () => false)).toBe(null);
});

it("says of each reading whether it is the one that is off", () => {
  const within = { judged: "within", readings: 3, least: 35, most: 37, apart: null } as Check;
  expect([0, 1, 2].map((i) => fitsAt(within, [36, 38, undefined], i))).toEqual([true, false, null]);
  const spread = { judged: "spread", readings: 2, least: null, most: null, apart: 0.25 } as Check;
  expect([0, 1].map((i) => fitsAt(spread, [60, 61], i))).toEqual([false, false]);
  const bow = { judged: "bow", readings: 3, least: null, most: null, apart: null, tolerance: 0.125 } as Check;
  expect(fits(bow, [35, 35.25])).toBeNull();
  expect(fits(bow, [35, 35.125, 35])).toBe(true);
  expect(fits(bow, [35, 35.25, 35])).toBe(false);
});

it("knows a clock that is wrong by the date of an answer, and forgives minutes", () => {
  const at = Date.UTC(2026, 10, 29, 7, 5);
  expect(clockAhead(at, "Sun, 29 Nov 2026 07:05:30 GMT")).toBe(0);
  expect(clockAhead(at, "Sun, 29 Nov 2026 06:05:00 GMT")).toBe(60);
  expect(clockAhead(at, "Mon, 29 Nov 2027 07:05:00 GMT")).toBe(-525600);
  expect(clockAhead(at, null)).toBe(0);
});

it("puts places in the order in which one comes to them", () => {
  const place = (id: string, next: string | null) => ({ id, next });
  const x = (id: string) => ({ W1: 50, W2: 110, W3: 190, D1: 270 })[id] ?? 0;
  const all = [place("", "c"), place("W1", null), place("W2", "j"), place("W3", "d"), place("D1", "s")];
  expect(byNearness(all, x, "W3").map((p) => p.id)).toEqual(["", "W3", "W2", "D1", "W1"]);
  expect(byNearness(all, x, null).map((p) => p.id)).toEqual(["", "W2", "W3", "D1", "W1"]);
});

it("holds what follows a unit that is not whole, until it is", () => {
  const steps = [{ id: "fit" }, { id: "set" }] as StepView[];
  const whole = { id: "w", step: "fit", by: "installer", stops: true, removed: false } as Check;
  expect(heldBy(steps, "set", [whole], () => false)?.id).toBe("w");
  expect(heldBy(steps, "fit", [whole], () => false)?.id).toBe("w");
  expect(heldBy(steps, "set", [whole], () => undefined)).toBeNull();
  expect(heldBy(steps, "set", [whole], () => true)).toBeNull();
});

it("takes the mean of gauge readings", () => {
  expect(average([14, 15, 17])).toBe(15.33);
});

it("what the calendar has today comes before what is nearer, and what is over comes last", () => {
  const kept = {
    from: "2026-03-16",
    crews: ["Wrap"],
    tasks: { "W1/jambs": [0, 480], "W2/head 2": [0, 1440 + 600], "W3/head": [0, 2880] },
  };
  expect(stepsOn("2026-03-16", kept)).toEqual(new Set(["W1/jambs"]));
  expect(stepsOn("2026-03-17", kept)).toEqual(new Set(["W2/head"]));
  expect(stepsOn("2026-03-17", undefined).size).toBe(0);
  expect(dayOf(new Date(2026, 2, 5, 23, 59))).toBe("2026-03-05");
  const next = {} as never;
  const all = [
    { id: "W1", next, today: false },
    { id: "W2", next, today: true },
    { id: "W3", next: null, today: true },
  ];
  const x = (id: string) => Number(id.slice(1));
  expect(byNearness(all, x, "W1").map((p) => p.id)).toEqual(["W2", "W1", "W3"]);
});
