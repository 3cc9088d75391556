import { expect, test } from "vitest";
import { moved, onDrawing, spotAt } from "./seen";

test("a spot is counted from the corner of its place, right and up, to a quarter inch", () => {
  const spot = spotAt([100, 80], [109.1, 82.6], "out");
  expect(spot).toEqual({ did: "out", x: "9", y: "-2.5" });
  expect(onDrawing([100, 80], spot)).toEqual([109, 82.5]);
});

test("a spot is moved by keys and stays what it was", () => {
  const spot = moved({ did: "in", x: "1", y: "2" }, [-1.5, 1]);
  expect(spot).toEqual({ did: "in", x: "-0.5", y: "1" });
});
