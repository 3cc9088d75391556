import { describe, expect, it } from "vitest";
import { fitted, hashOf } from "./photo";

describe("photographs", () => {
  it("are made smaller and never larger, and keep their shape", () => {
    expect(fitted(4000, 3000)).toEqual([1600, 1200]);
    expect(fitted(3000, 4000)).toEqual([1200, 1600]);
    expect(fitted(640, 480)).toEqual([640, 480]);
    expect(fitted(100000, 1)).toEqual([1600, 1]);
  });
  it("are named by the SHA-256 of their bytes", () => {
    const abc = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad";
    expect(hashOf(new TextEncoder().encode("abc"))).toBe(abc);
  });
});
