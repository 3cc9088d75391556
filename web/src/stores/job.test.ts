import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

/** The server as the store meets it: what it is asked, and what it answers next. */
const asked: { method: string; url: string; match: string | null; body: unknown }[] = [];
const answers: { status: number; body: unknown; when?: Promise<void>; headers?: Record<string, string> }[] = [];

function answer(
  revision: number,
  done = 5,
  total = 5,
  findings: { number: number }[] = [],
  id = 7,
  openings: string[] = [],
) {
  return {
    state: {
      id,
      revision,
      bench: 0,
      undo: revision > 1 ? "rename" : "",
      redo: "",
      job: { wall: { corners: [] }, name: "n", openings: openings.map((id) => ({ id })) },
    },
    view: {
      done,
      total,
      findings,
      steps: [],
      elevation: { openings: [] },
      cut_list: [{ pieces: [{ id: "p", cut: false }] }],
    },
  };
}

vi.stubGlobal("location", { origin: "http://kame.test" });
vi.stubGlobal("fetch", async (request: Request) => {
  const text = await request.text();
  asked.push({
    method: request.method,
    url: request.url,
    match: request.headers.get("If-Match"),
    body: text ? JSON.parse(text) : null,
  });
  const next = answers.shift();
  if (!next) throw new TypeError("no connection");
  const gone = new Promise<never>((_, reject) =>
    request.signal.addEventListener("abort", () => reject(new DOMException("gone", "AbortError"))),
  );
  await Promise.race([next.when ?? Promise.resolve(), gone]);
  return new Response(JSON.stringify(next.body), {
    status: next.status,
    headers: { "Content-Type": "application/json", ...next.headers },
  });
});

const { useJob } = await import("./job");
const { useMe } = await import("./me");

/** A moment that comes when it is told to. */
function moment() {
  let come = () => {};
  const when = new Promise<void>((resolve) => (come = resolve));
  return { when, come };
}

async function opened() {
  answers.push({ status: 200, body: answer(1) });
  const job = useJob();
  await job.open(7);
  return job;
}

beforeEach(() => {
  setActivePinia(createPinia());
  asked.length = 0;
});
afterEach(() => {
  answers.length = 0;
});

describe("the job on the screen", () => {
  it("asks for the finished wall first and for a moment when it is scrubbed", async () => {
    const job = await opened();
    expect(asked[0]?.url).toContain("/api/jobs/7?");
    expect(asked[0]?.url).not.toContain("done=");
    answers.push({ status: 200, body: answer(1, 2) });
    await job.goTo(2);
    expect(asked[1]?.url).toContain("done=2");
    expect(job.view?.done).toBe(2);
  });

  it("asks for the moment alone where it has the plan, and keeps the plan's parts as they are", async () => {
    const job = await opened();
    const kept = job.view?.cut_list;
    const only = answer(1, 2);
    answers.push({
      status: 200,
      body: { ...only, view: { ...only.view, steps: [], cut_list: [], moment_only: true } },
    });
    await job.goTo(2);
    expect(new URL(asked.at(-1)?.url ?? "").searchParams.get("have")).toBe("1.0.0");
    expect(job.view?.done).toBe(2);
    expect(job.view?.cut_list).toBe(kept);
  });
  it("shows a moment that was shown, or that was asked for ahead, without asking again", async () => {
    const job = await opened();
    answers.push({ status: 200, body: answer(1, 2) }, { status: 200, body: answer(1, 3) });
    await job.goTo(2);
    await job.lookAhead(3);
    const two = job.view;
    expect(asked.length).toBe(3);
    await job.goTo(3);
    expect(job.view?.done).toBe(3);
    await job.goTo(2);
    expect(job.view).toBe(two);
    expect(asked.length).toBe(3);
    // After a change it is another wall, and asked for anew.
    answers.push({ status: 200, body: answer(2, 2) }, { status: 200, body: answer(2, 3) });
    await job.change({ edit: "rename", name: "x" });
    await job.goTo(3);
    expect(asked.length).toBe(5);
  });
  it("waits for what is asked ahead, and goes where it was sent last", async () => {
    const job = await opened();
    const slow = moment();
    answers.push({ status: 200, body: answer(1, 2), when: slow.when }, { status: 200, body: answer(1, 1) });
    const ahead = job.lookAhead(2);
    const there = job.goTo(2);
    const elsewhere = job.goTo(1);
    slow.come();
    await Promise.all([ahead, there, elsewhere]);
    expect(job.view?.done).toBe(1);
  });
  it("keeps the number of actions within what there is", async () => {
    const job = await opened();
    answers.push({ status: 200, body: answer(1, 0) }, { status: 200, body: answer(1) });
    await job.goTo(-3);
    expect(job.done).toBe(0);
    await job.goTo(99);
    expect(job.done).toBeNull();
  });

  it("sends each change with the revision it was made on", async () => {
    const job = await opened();
    answers.push({ status: 200, body: answer(2) });
    expect(await job.change({ edit: "rename", name: "x" })).toBe(true);
    expect(asked[1]).toMatchObject({ method: "POST", match: '"1"', body: { edit: "rename", name: "x" } });
    expect(job.state?.revision).toBe(2);
  });

  it("lets quick changes wait for each other instead of meeting their own newer state", async () => {
    const job = await opened();
    answers.push({ status: 200, body: answer(2) }, { status: 200, body: answer(3) });
    await Promise.all([job.change({ edit: "rename", name: "a" }), job.change({ edit: "rename", name: "b" })]);
    expect(asked.slice(1).map((a) => a.match)).toEqual(['"1"', '"2"']);
    expect(job.state?.revision).toBe(3);
    expect(job.stale).toBeNull();
  });

  it("keeps a stale change and shows the newer state", async () => {
    const job = await opened();
    answers.push({ status: 412, body: { detail: "changed meanwhile" } }, { status: 200, body: answer(4) });
    expect(await job.change({ edit: "rename", name: "mine" }, "rename")).toBe(false);
    await vi.waitFor(() => expect(job.state?.revision).toBe(4));
    expect(job.stale).toEqual({ edit: { edit: "rename", name: "mine" }, what: "rename" });
  });

  it("asks nobody for a change that whoever looks may not make", async () => {
    const job = await opened();
    const person = {
      id: 1,
      name: "Di",
      login: "di",
      role: "viewer" as const,
      jobs: [],
      made: "",
      ended: null,
      second_factor: false,
    };
    useMe().take({ signs_in: true, first: false, person, share: null, token: "t", changed: [] });
    expect(await job.change({ edit: "rename", name: "x" })).toBe(false);
    expect(job.error).toContain("change nothing");
    expect(asked.length).toBe(1);
    useMe().take({
      signs_in: true,
      first: false,
      person: { ...person, jobs: [{ job: 7, role: "builder" }] },
      share: null,
      token: "t",
      changed: [],
    });
    answers.push({ status: 200, body: answer(2) });
    expect(await job.change({ edit: "rename", name: "x" })).toBe(true);
  });

  it("shows the sentence of a refusal and changes nothing", async () => {
    const job = await opened();
    answers.push({ status: 422, body: { detail: "opening width is 0" } });
    expect(await job.change({ edit: "rename", name: "" })).toBe(false);
    expect(job.error).toBe("opening width is 0");
    expect(job.state?.revision).toBe(1);
  });

  it("says plainly when the server does not answer", async () => {
    const job = await opened();
    expect(await job.change({ edit: "rename", name: "x" })).toBe(false);
    expect(job.error).toContain("does not answer");
  });

  it("knows a job that is not there", async () => {
    answers.push({ status: 404, body: { detail: "there is no job 9" } });
    const job = useJob();
    await job.open(9);
    expect(job.missing).toBe(true);
    expect(job.error).toBe("there is no job 9");
  });

  it("undoes only what there is to undo", async () => {
    const job = await opened();
    await job.travel("undo");
    expect(asked).toHaveLength(1);
    answers.push({ status: 200, body: answer(2) }, { status: 200, body: answer(3) });
    await job.change({ edit: "rename", name: "x" });
    await job.travel("undo");
    expect(asked[2]).toMatchObject({ method: "POST", match: '"2"' });
    expect(asked[2]?.url).toContain("/undo");
  });

  it("forgets a chosen finding that is gone", async () => {
    answers.push({ status: 200, body: answer(1, 5, 5, [{ number: 1 }, { number: 2 }]) });
    const job = useJob();
    await job.open(7);
    job.finding = 2;
    expect(job.currentFinding?.number).toBe(2);
    answers.push({ status: 200, body: answer(2, 5, 5, [{ number: 1 }]) });
    await job.change({ edit: "restore_order" });
    expect(job.finding).toBeNull();
  });

  it("shows what a drag would give, and lets it go again", async () => {
    const job = await opened();
    job.dragging = true;
    answers.push({ status: 200, body: { ...answer(1).view, done: 1 } });
    await job.preview({ edit: "set_opening", id: "W1", width: "40" });
    expect(job.shown?.done).toBe(1);
    expect(asked[1]?.url).toContain("/preview");
    job.endDrag();
    answers.push({ status: 200, body: answer(2) });
    await job.change({ edit: "set_opening", id: "W1", width: "40" });
    expect(job.previewed).toBeNull();
    expect(job.shown?.done).toBe(5);
  });

  it("shows only the newest answer when answers overtake each other", async () => {
    const job = await opened();
    answers.push({ status: 200, body: answer(1, 3) }, { status: 200, body: answer(1, 4) });
    await Promise.all([job.goTo(3), job.goTo(4)]);
    expect(job.view?.done).toBe(4);
  });
});

describe("what overtakes what", () => {
  it("an edit that waits is not sent to a job that was opened meanwhile", async () => {
    const job = await opened();
    const first = moment();
    answers.push({ status: 200, body: answer(2), when: first.when });
    const [one, two] = [job.change({ edit: "rename", name: "a" }), job.change({ edit: "rename", name: "b" })];
    await vi.waitFor(() => expect(asked).toHaveLength(2));
    answers.push({ status: 200, body: answer(1, 5, 5, [], 8) });
    await job.open(8);
    first.come();
    expect([await one, await two]).toEqual([true, false]);
    expect(asked.filter((a) => a.method === "POST")).toHaveLength(1);
    expect(job.state?.id).toBe(8);
    expect(job.error).toBeNull();
  });

  it("a load that fails late says nothing about the job that is open by then", async () => {
    const late = moment();
    answers.push({ status: 404, body: { detail: "there is no job 7" }, when: late.when });
    const job = useJob();
    const first = job.open(7);
    answers.push({ status: 200, body: answer(1, 5, 5, [], 8) });
    await job.open(8);
    late.come();
    await first;
    expect([job.missing, job.error, job.state?.id]).toEqual([false, null, 8]);
  });

  it("a refresh that comes before an edit's answer leaves the edit's revision in force", async () => {
    const job = await opened();
    const slow = moment();
    answers.push({ status: 200, body: answer(2), when: slow.when });
    const edit = job.change({ edit: "rename", name: "a" });
    await vi.waitFor(() => expect(asked).toHaveLength(2));
    answers.push({ status: 200, body: answer(1) });
    await job.refresh();
    slow.come();
    expect(await edit).toBe(true);
    answers.push({ status: 200, body: answer(3) });
    await job.change({ edit: "rename", name: "b" });
    expect(asked.at(-1)?.match).toBe('"2"');
    expect(job.stale).toBeNull();
  });

  it("a view of an older revision does not take the place of a newer one", async () => {
    const job = await opened();
    const slow = moment();
    answers.push({ status: 200, body: answer(1, 3), when: slow.when });
    const scrubbed = job.goTo(3);
    await vi.waitFor(() => expect(asked).toHaveLength(2));
    answers.push({ status: 200, body: answer(2, 3) });
    await job.change({ edit: "rename", name: "a" });
    slow.come();
    await scrubbed;
    expect(job.state?.revision).toBe(2);
  });

  it("pulling the scrubber asks for the first and the last moment, not for every one", async () => {
    const job = await opened();
    answers.push({ status: 200, body: answer(1, 0, 9) });
    await job.refresh();
    answers.push({ status: 200, body: answer(1, 1, 9) }, { status: 200, body: answer(1, 8, 9) });
    await Promise.all([1, 2, 3, 4, 5, 6, 7, 8].map((n) => job.goTo(n)));
    const moments = asked.slice(2).map((a) => new URL(a.url).searchParams.get("done"));
    expect(moments).toEqual(["1", "8"]);
    expect(job.view?.done).toBe(8);
  });

  it("a busy server is asked again, as often as it says and not forever", async () => {
    const job = await opened();
    const busy = { status: 503, body: { detail: "hands full" }, headers: { "Retry-After": "0" } };
    answers.push(busy, { status: 200, body: answer(2) });
    expect(await job.change({ edit: "rename", name: "a" })).toBe(true);
    answers.push(busy, busy, busy, busy, busy);
    await job.refresh();
    expect(job.error).toBe("hands full");
    expect(answers).toHaveLength(1);
    // What took too long would take too long again.
    answers.length = 0;
    answers.push({ status: 503, body: { detail: "takes longer than 120 s" } }, { status: 200, body: answer(2) });
    await job.refresh();
    expect(job.error).toBe("takes longer than 120 s");
    expect(answers).toHaveLength(1);
  });

  it("the chosen opening stays chosen whatever its place becomes", async () => {
    answers.push({ status: 200, body: answer(1, 5, 5, [], 7, ["W1", "W2", "W3"]) });
    const job = useJob();
    await job.open(7);
    job.opening = 1;
    answers.push({ status: 200, body: answer(2, 5, 5, [], 7, ["W2", "W3"]) });
    answers.push({ status: 200, body: answer(2, 5, 5, [], 7, ["W2", "W3"]) });
    await job.change({ edit: "remove_opening", id: "W1" });
    expect(job.opening).toBe(0);
    await vi.waitFor(() => expect(asked.at(-1)?.url).toContain("opening=0"));
  });
});

describe("ticks", () => {
  it("are shown at once and make no revision", async () => {
    const job = await opened();
    const slow = moment();
    answers.push({ status: 200, body: { revision: 1, bench: 1 }, when: slow.when });
    const ticked = job.tick("p", true, 3);
    expect(job.view?.cut_list[0]?.pieces[0]?.cut).toBe(true);
    answers.push({ status: 200, body: answer(1) });
    slow.come();
    await ticked;
    expect(asked[1]).toMatchObject({ method: "POST", match: null, body: { piece: "p", cut: true, roll: 3 } });
    expect(asked[1]?.url).toContain("/ticks");
  });
});

describe("nights", () => {
  const night = (done: number, state: string) => ({ step: `s${done}`, done, state, why: "", put: [], places: [] });

  it("are asked for once, and shown for the moment on the screen", async () => {
    const job = await opened();
    expect(job.tonight).toBeNull();
    answers.push({ status: 200, body: [night(2, "bare"), night(4, "cover"), night(5, "dry")] });
    await job.loadNights();
    expect(asked[1]?.url).toContain("/api/jobs/7/nights");
    expect(job.tonight?.state).toBe("dry");
    answers.push({ status: 200, body: answer(1, 3) });
    await job.goTo(3);
    expect(job.tonight?.state).toBe("cover");
    expect(asked).toHaveLength(3);
  });

  it("come with every change, and not while they are put away", async () => {
    const job = await opened();
    answers.push({ status: 200, body: answer(2) });
    await job.change({ edit: "put_right" });
    expect(asked.filter((a) => a.url.includes("nights"))).toHaveLength(0);
    answers.push({ status: 200, body: [night(5, "dry")] });
    await job.loadNights();
    answers.push({ status: 200, body: { ...answer(3), nights: [night(5, "open")] } });
    await job.change({ edit: "put_right" });
    expect(job.tonight?.state).toBe("open");
    expect(asked.at(-1)?.url).toContain("nights=true");
  });

  it("that cannot be had are told and change nothing", async () => {
    const job = await opened();
    answers.push({ status: 500, body: { detail: "the nights went wrong" } });
    await job.loadNights();
    expect(job.error).toBe("the nights went wrong");
    expect(job.nights).toBeNull();
    await job.loadNights();
    expect(job.error).toContain("does not answer");
  });

  it("are forgotten with the job they belong to", async () => {
    const job = await opened();
    answers.push({ status: 200, body: [night(5, "dry")] }, { status: 200, body: answer(1) });
    await job.loadNights();
    await job.open(7);
    expect(job.nights).toBeNull();
  });
});

describe("the stack drawn apart", () => {
  it("is asked for with the moment only while it is on show", async () => {
    answers.push({ status: 200, body: answer(1, 5, 5, [], 7, ["W1", "W2", "W3"]) });
    const job = useJob();
    await job.open(7);
    expect(asked[0]?.url).toContain("exploded=false");
    job.apart = true;
    job.opening = 2;
    answers.push({ status: 200, body: answer(1, 5, 5, [], 7, ["W1", "W2", "W3"]) });
    await job.refresh();
    expect(asked[1]?.url).toContain("exploded=true");
    expect(asked[1]?.url).toContain("opening=2");
  });
});
