import { expect, it } from "vitest";
import type { Booked } from "../api/client";
import { DAY_W, clock, dateOf, dayText, dayWeather, keptOf, movedBars, stints, xOf } from "./calendar";

const task = (crew: number, place: string, from: number, to: number, trade = "barrier") =>
  ({ crew, place, from, to, trade, step: `${place}/${from}`, title: "", why: "" }) as Booked;

it("makes one bar of what a crew does at one place without going elsewhere", () => {
  const all = stints([
    task(0, "W1", 420, 430),
    task(0, "W1", 430, 450),
    task(1, "W1", 425, 440),
    task(0, "W2", 450, 460),
    task(0, "W1", 460, 470),
    task(0, "W1", 600, 610),
    task(0, "W1", 1860, 1870),
  ]);
  expect(all.map((b) => [b.crew, b.place, b.from, b.to, b.tasks.length])).toEqual([
    [0, "W1", 420, 450, 2],
    [1, "W1", 425, 440, 1],
    [0, "W2", 450, 460, 1],
    [0, "W1", 460, 470, 1],
    [0, "W1", 600, 610, 1],
    [0, "W1", 1860, 1870, 1],
  ]);
});

it("draws days beside each other without their nights", () => {
  expect(xOf(6 * 60, 0)).toBe(0);
  expect(xOf(12 * 60, 0)).toBe(DAY_W / 2);
  expect(xOf(23 * 60, 0)).toBe(DAY_W);
  expect(xOf(1440 + 6 * 60, 0)).toBe(DAY_W);
  expect(xOf(3 * 1440 + 12 * 60, 2)).toBe(DAY_W * 1.5);
  expect(clock(1440 + 425)).toBe("7:05");
  expect(dateOf("2026-02-27", 2)).toBe("Sun, Mar 1");
});

it("sums up the weather of a day", () => {
  const hour = (minute: number, air_f: number, rain_in: number) => ({
    minute,
    air_f,
    dew_f: 30,
    rain_in,
    wind_mph: minute / 60,
    direct_wm2: 0,
    diffuse_wm2: 0,
  });
  const hours = [hour(0, 20, 0.1), hour(8 * 60, 40, 0.2), hour(14 * 60, 50, 0)];
  expect(dayWeather(hours, 0)).toEqual({ rain: expect.closeTo(0.3), least: 40, most: 50, wind: 14 });
  expect(dayWeather(hours, 1)).toBeNull();
});

it("keeps a calendar as crew and minute of each part of each step", () => {
  const booked = (step: string, crew: number, from: number) => ({ ...task(crew, "W1", from, from + 10), step });
  const tasks = [booked("course-1", 0, 600), booked("W1/pan", 1, 420), booked("course-1", 0, 420)];
  expect(keptOf({ from: "2026-03-02", crews: ["A", "B"], tasks, forecast: [] })).toEqual({
    from: "2026-03-02",
    crews: ["A", "B"],
    forecast: [],
    tasks: { "course-1 1": [0, 420], "course-1 2": [0, 600], "W1/pan": [1, 420] },
  });
  expect(dayText("2026-02-27", 3)).toBe("2026-03-02");
});

it("finds the bars that stand elsewhere", () => {
  const now = [task(0, "W1", 420, 480), task(0, "W2", 480, 540)];
  const then = [task(0, "W1", 420, 480), task(0, "W2", 1860, 1920), task(1, "W3", 420, 480)];
  expect(movedBars(now, now)).toEqual([]);
  expect(movedBars(now, then).map((b) => [b.crew, b.place, b.from])).toEqual([
    [1, "W3", 420],
    [0, "W2", 1860],
  ]);
});
