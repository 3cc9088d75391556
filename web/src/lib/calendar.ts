import { locale } from "./language";
import type { Booked, Booking, Hour, SiteSpec } from "../api/client";

/** The hours of a day that are drawn. */
export const FROM_H = 6;
export const TO_H = 18;
/** A day is so wide, points. */
export const DAY_W = 168;

export const dayOf = (minute: number) => Math.floor(minute / 1440);
/** Where a minute stands: nights are not drawn. */
export function xOf(minute: number, first: number): number {
  const of = Math.min(TO_H * 60, Math.max(FROM_H * 60, minute % 1440));
  return (dayOf(minute) - first + (of - FROM_H * 60) / ((TO_H - FROM_H) * 60)) * DAY_W;
}
export const clock = (minute: number) => `${Math.floor((minute % 1440) / 60)}:${String(minute % 60).padStart(2, "0")}`;
export function dateOf(from: string, day: number): string {
  const at = new Date(`${from}T12:00:00Z`);
  at.setUTCDate(at.getUTCDate() + day);
  return at.toLocaleDateString(locale, { weekday: "short", month: "short", day: "numeric", timeZone: "UTC" });
}

/** A day in the room of a few letters: 3/12. */
export const shortDay = (on: string) => `${Number(on.slice(5, 7))}/${Number(on.slice(8, 10))}`;

/** A bar: what one crew does at one place without going elsewhere on a day. */
export interface Stint {
  key: string;
  crew: number;
  /** Id of the opening, or name of the wall; empty where it is several walls. */
  place: string;
  trade: Booked["trade"];
  from: number;
  to: number;
  tasks: Booked[];
}
/** Tasks as bars: those that follow each other at one place by one crew on one day are one. `walls` are called so from left to right. */
export function stints(tasks: Booked[], walls: string[] = []): Stint[] {
  const out: Stint[] = [];
  const last = new Map<number, Stint>();
  for (const t of [...tasks].sort((a, b) => a.from - b.from)) {
    const before = last.get(t.crew);
    const place = t.place || (walls[t.wall ?? -1] ?? "");
    // A pause of more than half an hour is seen.
    const goesOn =
      before &&
      before.place === place &&
      before.trade === t.trade &&
      dayOf(before.from) === dayOf(t.from) &&
      t.from - before.to <= 30;
    if (goesOn) {
      before.to = Math.max(before.to, t.to);
      before.tasks.push(t);
      continue;
    }
    const stint = {
      key: `${t.crew} ${t.from} ${t.step}`,
      crew: t.crew,
      place,
      trade: t.trade,
      from: t.from,
      to: t.to,
      tasks: [t],
    };
    last.set(t.crew, stint);
    out.push(stint);
  }
  return out;
}
/** How a night may be left, as a mark. */
export const nightMarks = { dry: "✓", tape: "▬", cover: "▣", open: "✕", bare: "–" };
/** More days than this are not drawn beside each other. */
const MOST_DAYS = 90;
/** The days of a calendar, from the first on which somebody works to the last. */
export function drawnDays(tasks: Booked[]): number[] {
  const first = dayOf(tasks[0]?.from ?? 0);
  const last = dayOf(Math.max(0, ...tasks.map((t) => t.to - 1)));
  return Array.from({ length: Math.min(MOST_DAYS, last - first + 1) }, (_, n) => first + n);
}

/** Bars of a calendar that are not bars of another one. */
export function movedBars(now: Booked[], then: Booked[], walls: string[] = []): Stint[] {
  const at = (b: Stint) => `${b.crew} ${b.from} ${b.to} ${b.place}`;
  const known = new Set(stints(now, walls).map(at));
  return stints(then, walls).filter((b) => !known.has(at(b)));
}
/** A calendar as it is agreed on: crew and minute of each part of each step. */
export function keptOf(b: Pick<Booking, "from" | "crews" | "tasks" | "forecast">): NonNullable<SiteSpec["kept"]> {
  const parts = new Map<string, Booked[]>();
  for (const t of [...b.tasks].sort((x, y) => x.from - y.from)) parts.set(t.step, [...(parts.get(t.step) ?? []), t]);
  const tasks: Record<string, [number, number]> = {};
  for (const [step, all] of parts)
    all.forEach((t, n) => (tasks[all.length > 1 ? `${step} ${n + 1}` : step] = [t.crew, t.from]));
  return { from: b.from, crews: b.crews, tasks, forecast: b.forecast };
}

/** A day as it is written in files: 2026-03-05. */
export function dayText(from: string, day: number): string {
  const at = new Date(`${from}T12:00:00Z`);
  at.setUTCDate(at.getUTCDate() + day);
  return at.toISOString().slice(0, 10);
}

/** What a day's weather is, in numbers: rain in inches, air from and to, wind at most. */
export function dayWeather(hours: Hour[], day: number) {
  const of = hours.filter((h) => dayOf(h.minute) === day);
  if (of.length === 0) return null;
  const air = of.filter((h) => h.minute % 1440 >= FROM_H * 60 && h.minute % 1440 < TO_H * 60).map((h) => h.air_f);
  return {
    rain: of.reduce((a, h) => a + h.rain_in, 0),
    least: Math.round(Math.min(...air)),
    most: Math.round(Math.max(...air)),
    wind: Math.round(Math.max(...of.map((h) => h.wind_mph))),
  };
}
