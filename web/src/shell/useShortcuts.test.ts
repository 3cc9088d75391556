import { describe, expect, it } from "vitest";
import { isLetterKey, nameOf } from "./useShortcuts";

const key = (key: string, held: Partial<Pick<KeyboardEvent, "ctrlKey" | "metaKey" | "altKey" | "shiftKey">> = {}) =>
  nameOf({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held });

describe("keys", () => {
  it("are called by what is held with them", () => {
    expect(key("Z", { ctrlKey: true, shiftKey: true })).toBe("ctrl shift z");
    expect(key("z", { metaKey: true })).toBe("ctrl z");
    expect(key("ArrowUp", { altKey: true })).toBe("alt ArrowUp");
    expect(key("R", { shiftKey: true })).toBe("r");
    expect(key("?", { shiftKey: true })).toBe("?");
  });

  it("of one letter are told from those that can stay on", () => {
    expect(["r", "?", "[", "0", "+"].every(isLetterKey)).toBe(true);
    expect([" ", "ctrl z", "Delete", "ArrowLeft"].some(isLetterKey)).toBe(false);
  });
});
