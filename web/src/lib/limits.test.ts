import { describe, expect, it } from "vitest";
import { limit, longest, outside, range } from "./limits";

describe("limits", () => {
  it("tells a number outside with both ends and what to do", () => {
    const { least, most, remedy } = limit("copies");
    for (const n of [Number(least) - 1, Number(most) + 1, NaN]) {
      const said = outside("copies", n);
      expect(said).toContain(`${least}`);
      expect(said).toContain(`${most}`);
      expect(said).toContain(remedy);
    }
    for (const n of [Number(least), Number(most)]) expect(outside("copies", n)).toBeNull();
  });

  it("leaves lengths to the core and says their range in its words", () => {
    expect(outside("opening_width", 9999)).toBeNull();
    expect(range("opening_width")).toContain(`${limit("opening_width").most}`);
  });

  it("holds names to what the core takes", () => {
    expect(longest("name")).toBeGreaterThan(0);
  });
});
