import { afterEach, describe, expect, it, vi } from "vitest";
import { s } from "../strings";
import { mapped, readSchedule } from "./schedule";

afterEach(() => vi.unstubAllGlobals());

describe("a schedule", () => {
  it("names mapped columns as the server reads them", () => {
    expect(mapped(new Map())).toBe("");
    expect(
      mapped(
        new Map([
          [2, "width"],
          [0, null],
        ]),
      ),
    ).toBe("2:width,0:none");
  });

  it("comes back understood, or with the server's sentence, or says that nobody answers", async () => {
    const asked: string[] = [];
    const answer = (status: number, body: unknown) =>
      vi.stubGlobal("fetch", (url: string) => {
        asked.push(url);
        return Promise.resolve(new Response(JSON.stringify(body), { status }));
      });
    const file = new Blob(["Width\n36"]);
    answer(200, { columns: [], rows: [] });
    expect(await readSchedule(7, file, "mm", "1:width")).toEqual({ schedule: { columns: [], rows: [] }, error: "" });
    expect(asked[0]).toBe("/api/jobs/7/schedule?unit=mm&columns=1%3Awidth");
    answer(422, { detail: "the file is empty" });
    expect(await readSchedule(7, file, "in", "")).toEqual({ schedule: null, error: "the file is empty" });
    vi.stubGlobal("fetch", () => Promise.reject(new Error("gone")));
    expect((await readSchedule(7, file, "in", "")).error).toBe(s.errors.offline);
  });
});
