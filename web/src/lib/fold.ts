import type { Finding, OpeningView, StepView } from "../api/client";
import { worstOf } from "./verdict";

/** By what the order of work folds. */
export type FoldBy = "order" | "place" | "trade" | "day";

/** A fold of the order of work: its steps, how many are done, and the worst that is found there. */
export interface Fold {
  key: string;
  title: string;
  /** 0 a wall, 1 a place on it; folds of one kind stand at 0. */
  level: 0 | 1;
  steps: StepView[];
  done: number;
  worst: Finding["severity"] | null;
}

export interface Around {
  /** Names of the walls from left to right. */
  walls: string[];
  openings: Pick<OpeningView, "id" | "wall">[];
  names: Record<string, string>;
  findings: Finding[];
  done: number;
  /** Ids of steps day by day, where they are known. */
  days: string[][] | null;
  words: {
    wallItself: string;
    trades: Record<StepView["trade"], string>;
    day: (n: number) => string;
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
    worst: worstOf(findings),
  });
  if (by === "order") return [fold("all", "", 0, steps, around.findings)];
  if (by === "trade") {
    const trades = [...new Set(steps.map((x) => x.trade))];
    return trades.map((t) =>
      fold(
        t,
        around.words.trades[t],
        0,
        steps.filter((x) => x.trade === t),
        [],
      ),
    );
  }
  if (by === "day") {
    const days = around.days ?? [];
    const dayOf = new Map(days.flatMap((ids, n) => ids.map((id) => [id, n] as const)).reverse());
    const on = (n: number | undefined) => steps.filter((x) => dayOf.get(x.id) === n);
    const each = days.map((_, n) => fold(`day-${n}`, around.words.day(n + 1), 0, on(n), []));
    return [...each, fold("no-day", around.words.noDay, 0, on(undefined), [])].filter((f) => f.steps.length > 0);
  }
  const at = (id: string) => around.findings.filter((f) => f.features.includes(id));
  const place = (id: string, level: 0 | 1) =>
    fold(
      id,
      `${id} · ${around.names[id] ?? ""}`,
      level,
      steps.filter((x) => x.opening === id),
      at(id),
    );
  const itself = fold(
    "",
    around.words.wallItself,
    0,
    steps.filter((x) => x.opening === ""),
    around.findings.filter((f) => f.features.length === 0),
  );
  const many = around.walls.length > 1;
  const walls = around.walls.flatMap((name, w) => {
    const places = around.openings.filter((o) => o.wall === w).map((o) => place(o.id, many ? 1 : 0));
    const here = around.findings.filter((f) => f.walls.includes(w));
    const done = places.reduce((n, p) => n + p.done, 0);
    // The wall's own line holds no steps of its own: they stand in its places.
    return many ? [{ ...fold(`wall-${w}`, name, 0, [], here), done }, ...places] : places;
  });
  return [itself, ...walls].filter((f) => f.steps.length > 0 || f.key.startsWith("wall-"));
}
