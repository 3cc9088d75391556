import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { RecordEvent } from "../api/client";

/** Answers in order; one that is left out is a server that says nothing. */
const answers: (((events: RecordEvent[]) => { status: number; body: unknown }) | null)[] = [];
const sent: RecordEvent[][] = [];
const stands = { revision: 1, entries: 0, steps: [] };
const kept = new Map<string, string>();

vi.stubGlobal("location", { origin: "http://kame.test" });
vi.stubGlobal("addEventListener", () => undefined);
vi.stubGlobal("localStorage", {
  getItem: (k: string) => kept.get(k) ?? null,
  setItem: (k: string, v: string) => void kept.set(k, v),
});
vi.stubGlobal("fetch", async (request: Request) => {
  const answer = (status: number, body: unknown) => new Response(JSON.stringify(body), { status });
  if (request.method === "GET") return answer(200, stands);
  const { events } = (await request.json()) as { events: RecordEvent[] };
  sent.push(events);
  const next = answers.shift();
  if (!next) throw new TypeError("no signal");
  const { status, body } = next(events);
  return answer(status, body);
});
const { useRecord } = await import("./record");

const taken = (events: RecordEvent[]) => ({ status: 200, body: events.map((event, i) => ({ number: i + 1, event })) });
const at = { place: "W1", step: "W1/survey" };
const settled = async (so: () => boolean) => vi.waitFor(() => expect(so()).toBe(true));

beforeEach(() => {
  setActivePinia(createPinia());
  kept.clear();
  sent.length = answers.length = 0;
  kept.set("kame-who", JSON.stringify("Ada"));
});
afterEach(() => vi.useRealTimers());

it("keeps what is written down until it is on record, also over a closed page", async () => {
  const record = useRecord();
  record.open(2);
  record.add({ is: "begun" }, at);
  record.add({ is: "done" }, at);
  await settled(() => record.silent);
  expect(record.waiting.map((e) => e.what.is)).toEqual(["begun", "done"]);
  expect(record.now("W1/survey")).toBe("done");
  // Another page of the same device, with a signal.
  setActivePinia(createPinia());
  const again = useRecord();
  answers.push(taken);
  again.open(2);
  await settled(() => again.waiting.length === 0);
  expect(sent.at(-1)?.map((e) => e.what.is)).toEqual(["begun", "done"]);
  expect(JSON.parse(kept.get("kame-waiting-2") ?? "")).toEqual([]);
});

it("sets aside what is refused and sends the rest", async () => {
  const record = useRecord();
  record.open(2);
  record.add({ is: "begun" }, at);
  record.add({ is: "left_out" }, at);
  record.add({ is: "done" }, at);
  await settled(() => record.silent);
  answers.push(
    () => ({ status: 422, body: { detail: "says nothing", problems: [{ path: "$.events[1].note", message: "no" }] } }),
    taken,
  );
  await record.send();
  await settled(() => record.waiting.length === 0);
  expect(sent.at(-1)?.map((e) => e.what.is)).toEqual(["begun", "done"]);
  expect(record.aside.map((e) => e.what.is)).toEqual(["left_out"]);
});

it("keeps what another window of the device wrote down", async () => {
  const [one, other] = [createPinia(), createPinia()];
  setActivePinia(one);
  const a = useRecord();
  a.open(2);
  setActivePinia(other);
  const b = useRecord();
  b.open(2);
  b.add({ is: "noted" }, at, "from the other");
  a.add({ is: "done" }, at);
  await settled(() => a.silent && b.silent);
  const ids = (JSON.parse(kept.get("kame-waiting-2") ?? "[]") as RecordEvent[]).map((e) => e.what.is).sort();
  expect(ids).toEqual(["done", "noted"]);
});

it("hears what others say later of a check that was said something of here", async () => {
  const record = useRecord();
  answers.push(taken);
  record.open(2);
  record.add({ is: "looked", check: "W1/survey/1:wall", good: true }, at);
  expect(record.said.get("W1/survey/1:wall")).toBe(true);
  await settled(() => record.waiting.length === 0 && record.said.size === 0);
});
