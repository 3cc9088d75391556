import { expect, test } from "vitest";
import { pathOf } from "./label";

test("a label leads to its place, also where it was printed for another machine", () => {
  expect(pathOf("http://192.168.4.20:4600/jobs/3/site/W1")).toBe("/jobs/3/site/W1");
  expect(pathOf("HTTPS://kame.example/jobs/3/site/Bow%20window?step=W1%2Fpan#top")).toBe(
    "/jobs/3/site/Bow%20window?step=W1%2Fpan#top",
  );
});

test("what is no address leads nowhere", () => {
  for (const text of ["", "W1", "4006381333931", "javascript:alert(1)", "https://", "ftp://kame.example/jobs/1"]) {
    expect(pathOf(text)).toBeNull();
  }
});
