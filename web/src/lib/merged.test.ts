import { expect, it } from "vitest";
import type { WallView } from "../api/client";
import { merged } from "./merged";

const step = (id: string, title = id) => ({ id, title });
const view = (parts: object) => ({ steps: [], cut_list: [], figures: [], done: 1, ...parts }) as unknown as WallView;

it("takes what is left out from before and keeps what did not change the same thing", () => {
  const kept = view({ steps: [step("a"), step("b"), step("c")], cut_list: ["cut"], figures: ["was"] });
  const next = view({ steps: [step("b", "wider")], figures: ["is"], done: 2 });
  const now = merged(kept, next, { have: "1.0.0", same: ["cut_list"], steps: [] });
  expect(now.steps).toEqual([step("a"), step("b", "wider"), step("c")]);
  expect(now.steps[0]).toBe(kept.steps[0]);
  expect(now.cut_list).toBe(kept.cut_list);
  expect(now.figures).toEqual(["is"]);
  expect(now.done).toBe(2);
});

it("follows another order, with steps that came and without those that went", () => {
  const kept = view({ steps: [step("a"), step("b")] });
  const now = merged(kept, view({ steps: [step("n")] }), { have: "1.0.0", same: [], steps: ["n", "a"] });
  expect(now.steps.map((s) => s.id)).toEqual(["n", "a"]);
});
