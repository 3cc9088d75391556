import { describe, expect, it } from "vitest";
import { landsBefore } from "./order";

const steps = (ids: string) => [...ids].map((id) => ({ id }));

describe("where a step lands", () => {
  const all = steps("aXbYcZd");
  const shown = steps("abcd");

  it("is right before the step above it, whatever else stands between", () => {
    expect(landsBefore(all, shown, "c", 1)).toBe("b");
    expect(landsBefore(all, shown, "b", 0)).toBe("a");
  });

  it("is right behind the step it passes downward, not behind what is not shown", () => {
    expect(landsBefore(all, shown, "a", 2)).toBe("Y");
    expect(landsBefore(all, shown, "b", 3)).toBe("Z");
    expect(landsBefore(all, shown, "a", 4)).toBeNull();
  });

  it("is nowhere new beside itself", () => {
    expect(landsBefore(all, shown, "b", 1)).toBeUndefined();
    expect(landsBefore(all, shown, "b", 2)).toBeUndefined();
  });

  it("is the same as among all where all are shown", () => {
    expect(landsBefore(shown, shown, "a", 2)).toBe("c");
    expect(landsBefore(shown, shown, "a", 4)).toBeNull();
    expect(landsBefore(shown, shown, "d", 0)).toBe("a");
  });
});
