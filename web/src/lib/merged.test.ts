import { expect, it } from "vitest";
import type { WallView } from "../api/client";
import { completed } from "./merged";

const step = (id: string, title = id) => ({ id, title });
const drawing = (called: string, shapes: unknown[], kept: object | null = null) => ({
  called,
  shapes,
  openings: [],
  kept: kept && { openings: [], ...kept },
});
const view = (parts: object) =>
  ({ steps: [], cut_list: [], figures: [], done: 1, elevation: drawing("d", []), ...parts }) as unknown as WallView;

it("takes what is left out from before and keeps what did not change the same thing", () => {
  const kept = view({ steps: [step("a"), step("b"), step("c")], cut_list: ["cut"], figures: ["was"] });
  const since = { have: "1.0.0", same: ["cut_list"], steps: [] };
  const now = completed(view({ steps: [step("b", "wider")], figures: ["is"], done: 2, since }), kept, "1.0.0");
  expect(now?.steps).toEqual([step("a"), step("b", "wider"), step("c")]);
  expect(now?.steps[0]).toBe(kept.steps[0]);
  expect(now?.cut_list).toBe(kept.cut_list);
  expect(now?.figures).toEqual(["is"]);
  expect(now?.done).toBe(2);
});

it("follows another order, with steps that came and without those that went", () => {
  const kept = view({ steps: [step("a"), step("b")] });
  const since = { have: "1.0.0", same: [], steps: ["n", "a"] };
  const now = completed(view({ steps: [step("n")], since }), kept, "1.0.0");
  expect(now?.steps.map((s) => s.id)).toEqual(["n", "a"]);
});

it("puts a drawing's pieces where they belong, what stands between them from the answer", () => {
  const [a, b, c] = [{ piece: "a" }, { piece: "b" }, { piece: "c" }];
  const kept = view({ elevation: drawing("1", [a, b, c]) });
  const runs = {
    have: "1",
    shapes: [
      [1, 1, 2],
      [4, 0, 1],
    ],
  };
  const now = completed(view({ elevation: drawing("2", ["x", "y", "z"], runs) }), kept, "");
  expect(now?.elevation.shapes).toEqual(["x", b, c, "y", a, "z"]);
  expect(now?.elevation.shapes[1]).toBe(b);
  expect(now?.elevation.called).toBe("2");
  expect(now?.elevation.kept).toBe(null);
});

it("does not put together what belongs to something else", () => {
  const kept = view({ elevation: drawing("1", [1, 2]) });
  const of = (have: string) => view({ elevation: drawing("2", [], { have, shapes: [[0, 0, 2]] }) });
  expect(completed(of("0"), kept, "")).toBe(null);
  expect(completed(of("1"), null, "")).toBe(null);
  expect(completed(of("1"), kept, "")?.elevation.shapes).toEqual([1, 2]);
  expect(completed(view({ since: { have: "1.0.0", same: [], steps: [] } }), kept, "2.0.0")).toBe(null);
  expect(completed(view({ moment_only: true }), null, "")).toBe(null);
});
