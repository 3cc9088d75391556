import { expect, it } from "vitest";
import type { JobAnswer, JobState, WallView } from "../api/client";
import { completed, wholeState } from "./merged";

const step = (id: string, title = id) => ({ id, title });
const drawing = (called: string, shapes: unknown[], kept: object | null = null) => ({
  called,
  shapes,
  openings: [],
  kept: kept && { openings: [], parts: [], findings: [], ...kept },
});
const view = (parts: object) =>
  ({
    steps: [],
    cut_list: [],
    figures: [],
    findings: [],
    done: 1,
    elevation: drawing("d", []),
    ...parts,
  }) as unknown as WallView;

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

it("puts a course's parts and what is found back where they were", () => {
  const course = (parts: unknown[], edges: unknown[]) => ({ piece: "c", parts, edges });
  const kept = view({ findings: ["f1", "f2"], elevation: drawing("1", ["a", course(["p1", "p2", "p3"], ["e1"])]) });
  const runs = {
    have: "1",
    shapes: [[0, 0, 1]],
    parts: [
      {
        shape: 1,
        from: 1,
        parts: [
          [0, 0, 1],
          [2, 2, 1],
        ],
        edges: [[0, 0, 1]],
      },
    ],
    findings: [[1, 1, 1]],
  };
  const now = completed(view({ findings: ["new"], elevation: drawing("2", [course(["x"], [])], runs) }), kept, "");
  expect(now?.elevation.shapes).toEqual(["a", course(["p1", "x", "p3"], ["e1"])]);
  expect(now?.findings).toEqual(["new", "f2"]);
});

it("makes a job of the one that is kept, and nothing of another", () => {
  const job = { name: "a", openings: [{ id: "W1", width: "30" }, { id: "W2" }] };
  const kept = { id: 1, revision: 1, bench: 0, undo: "", redo: "", job } as unknown as JobState;
  const told = (change: object) => ({ ...kept, job: undefined, revision: 2, change }) as unknown as JobAnswer["state"];
  const patch = [{ op: "replace", path: "/openings/0/width", value: "31" }];
  const now = wholeState(told({ have: "1.0.0", patch }), kept, "1.0.0");
  expect([now?.revision, now?.job.openings?.[0]?.width]).toEqual([2, "31"]);
  expect(now?.job.openings?.[1]).toBe(kept.job.openings?.[1]);
  expect(wholeState(told({ have: "1.0.0", patch: [] }), kept, "1.0.0")?.job).toBe(kept.job);
  expect(wholeState(told({ have: "1.0.0", patch }), kept, "2.0.0")).toBe(null);
  expect(wholeState(told({ have: "1.0.0", patch }), null, "1.0.0")).toBe(null);
});
