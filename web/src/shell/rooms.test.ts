import { describe, expect, it } from "vitest";
import { roomAddress, roomOf, rooms } from "./rooms";

describe("rooms", () => {
  it("are found again from their addresses", () => {
    for (const room of rooms) {
      const at = roomAddress(room.id, "7") as { name: string; params: { id: string; tab?: string } };
      expect(at.params.id).toBe("7");
      expect(roomOf(at.name, at.params.tab)).toBe(room.id);
    }
  });

  it("hold the screens that are reached from them", () => {
    expect(roomOf("compare", undefined)).toBe("wall");
    expect(roomOf("truck", "figures")).toBe("kit");
    expect(roomOf("truck", "sums")).toBe("truck");
    expect(roomOf("jobs", undefined)).toBeNull();
  });
});
