import type { Finding, OpeningView, StepsOfDay, StepView } from "../api/client";
import { grouped, stepsByPlace } from "./building";
import { stateOf, worstOf } from "./verdict";

/** By what the order of work folds. */
export type FoldBy = "order" | "place" | "trade" | "day";

/** A fold of the order of work: its steps, how many are done, and what is said of it. */
export interface Fold {
  key: string;
  title: string;
  /** 0 a wall, 1 a place on it; folds of one kind stand at 0. */
  level: 0 | 1;
  steps: StepView[];
  done: number;
  /** Which of the six is said of it. */
  state: number;
}

export interface Around {
  /** Names of the walls from left to right. */
  walls: string[];
  openings: Pick<OpeningView, "id" | "wall">[];
  names: Map<string, string>;
  findings: Finding[];
  done: number;
  finished: boolean;
  /** Ids of steps day by day, where they are known. */
  days: StepsOfDay[] | null;
  words: {
    wallItself: string;
    trades: Record<StepView["trade"], string>;
    day: (on: string) => string;
    noDay: string;
  };
}

/** Folds the steps: every step stands in exactly one fold, and in each fold in the order of work. */
export function folded(steps: StepView[], by: FoldBy, around: Around): Fold[] {
  const fold = (key: string, title: string, level: 0 | 1, of: StepView[], findings: Finding[]): Fold => ({
    key,
    title,
    level,
    steps: of,
    done: of.filter((x) => !x.removed && x.ends <= around.done).length,
    state: stateOf(worstOf(findings), around.finished),
  });
  if (by === "order") return [fold("all", "", 0, steps, around.findings)];
  if (by === "trade") {
    const trades = [...new Set(steps.map((x) => x.trade))];
    const of = grouped(steps, (x) => [x.trade]);
    return trades.map((t) => fold(t, around.words.trades[t], 0, of(t), []));
  }
  if (by === "day") {
    const days = around.days ?? [];
    const dayOf = new Map(days.flatMap((d, n) => d.steps.map((id) => [id, n] as const)).reverse());
    const on = grouped(steps, (x) => [dayOf.get(x.id)]);
    const each = days.map((d, n) => fold(`day-${n}`, around.words.day(d.on), 0, on(n), []));
    return [...each, fold("no-day", around.words.noDay, 0, on(undefined), [])].filter((f) => f.steps.length > 0);
  }
  const of = stepsByPlace(steps);
  const at = grouped(around.findings, (f) => f.features);
  const place = (id: string, level: 0 | 1) => fold(id, `${id} · ${around.names.get(id) ?? ""}`, level, of(id), at(id));
  const nowhere = around.findings.filter((f) => f.features.length === 0);
  const itself = fold("", around.words.wallItself, 0, of(""), nowhere);
  const many = around.walls.length > 1;
  const on = grouped(around.openings, (o) => [o.wall]);
  const told = grouped(around.findings, (f) => f.walls);
  const walls = around.walls.flatMap((name, w) => {
    const places = on(w).map((o) => place(o.id, many ? 1 : 0));
    const here = told(w);
    const done = places.reduce((n, p) => n + p.done, 0);
    // The wall's own line holds no steps of its own: they stand in its places.
    return many ? [{ ...fold(`wall-${w}`, name, 0, [], here), done }, ...places] : places;
  });
  return [itself, ...walls].filter((f) => f.steps.length > 0 || f.key.startsWith("wall-"));
}
