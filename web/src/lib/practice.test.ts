import { describe, expect, it } from "vitest";
import type { SceneView } from "../api/client";
import { composed, inchesOf, laidNothing, lay, nextSeed, piecesOf, sceneAddress, takeBack } from "./practice";

describe("practice", () => {
  it("never gives the same scene twice in a row", () => {
    expect(nextSeed(null, () => 0.5)).toBe(500000000);
    expect(nextSeed(500000000, () => 0.5)).toBe(500000001);
  });
  it("has an address for each scene", () => {
    expect(sceneAddress("find", 2, 7)).toEqual({
      name: "practice",
      params: { drill: "find", level: "2", seed: "7" },
      query: {},
    });
    expect(sceneAddress("find", 2, 7, 3, "F10").query).toEqual({ job: "3", focus: "F10" });
  });
  it("lays each step once, and what sticks and is taken back is thrown away", () => {
    let laid = lay(lay(lay(laidNothing(), "a"), "b"), "a");
    expect(laid.steps).toEqual(["a", "b"]);
    laid = takeBack(laid, true);
    expect(laid).toEqual({ steps: ["a"], wasted: 1, hints: 0 });
    laid = takeBack(takeBack(laid, false), true);
    expect(laid).toEqual({ steps: [], wasted: 1, hints: 0 });
  });
  it("reads inches as people write them", () => {
    expect(inchesOf("38")).toBe("38 in");
    expect(inchesOf('38 1/2"')).toBe("38.5 in");
    expect(inchesOf("3-2 1/2")).toBe("38.5 in");
    expect(inchesOf("3' 2")).toBe("38 in");
    expect(inchesOf("")).toBeNull();
    expect(inchesOf("wide")).toBeNull();
    expect(inchesOf("1/0")).toBeNull();
  });
  it("lays what was chosen over the wall, in the order in which it was laid", () => {
    const lay = ["a", "b"].map((step) => ({ step, picture: { now: [{ piece: step }] } }));
    const scene = { elevation: { width: 9, shapes: [{ piece: "wall" }] }, lay } as unknown as SceneView;
    expect(composed(scene, ["b", "a"]).shapes.map((x) => x.piece)).toEqual(["wall", "b", "a"]);
    expect(scene.elevation.shapes).toHaveLength(1);
  });
  it("lists each piece once", () => {
    const shapes = [
      { piece: "W1/pan", name: "sill pan" },
      { piece: "c1", name: "course 1" },
      { piece: "W1/pan", name: "sill pan" },
    ];
    // What is seen only in a section or drawn apart can be marked too.
    const sections = [{ built: { runs: [{ piece: "W1/bead", name: "bead" }] } }, { built: null }];
    const scene = {
      elevation: { shapes },
      sections,
      apart: [{ pieces: [shapes[0]] }],
      lies: [{ piece: "b", name: "band" }],
    } as unknown as SceneView;
    expect(piecesOf(scene)).toEqual([
      { id: "b", name: "band" },
      { id: "W1/bead", name: "bead" },
      { id: "c1", name: "course 1" },
      { id: "W1/pan", name: "sill pan" },
    ]);
  });
});
