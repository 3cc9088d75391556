import { createPinia, setActivePinia } from "pinia";
import { beforeEach, expect, it, vi } from "vitest";
import type { Me, Role } from "../api/client";

vi.stubGlobal("location", { origin: "http://kame.test" });
const { useMe } = await import("./me");
const { tokenHeader } = await import("../api/token");

const nobody: Me = { signs_in: true, first: false, person: null, share: null, token: null, changed: [] };
const person = (role: Role, jobs: { job: number; role: Role }[] = []): Me => ({
  ...nobody,
  person: {
    id: 1,
    name: "Ada",
    login: "ada",
    role,
    made: "2026-11-30T00:00:00Z",
    ended: null,
    jobs,
    second_factor: false,
  },
  token: "t",
});

beforeEach(() => setActivePinia(createPinia()));

it("lets everybody do everything where nobody signs in", () => {
  const me = useMe();
  me.take({ ...nobody, signs_in: false });
  expect([me.isIn, me.may("owner"), me.may("builder", 3)]).toEqual([true, true, true]);
});

it("lets nobody in who has not signed in, and each do what their role says", () => {
  const me = useMe();
  me.take(nobody);
  expect([me.isIn, me.may("viewer"), tokenHeader()]).toEqual([false, false, {}]);
  me.take(person("crew"));
  expect([me.isIn, me.may("viewer"), me.may("crew"), me.may("builder")]).toEqual([true, true, true, false]);
  expect(tokenHeader()).toEqual({ "X-Kame-Token": "t" });
});

it("holds what somebody may do on one job before what they may in the firm", () => {
  const me = useMe();
  me.take(
    person("viewer", [
      { job: 3, role: "builder" },
      { job: 4, role: "none" },
    ]),
  );
  expect([me.may("builder", 3), me.may("builder", 5), me.may("viewer", 4), me.may("viewer")]).toEqual([
    true,
    false,
    false,
    true,
  ]);
  // Whoever says who may do what may do it everywhere.
  me.take(person("owner", [{ job: 4, role: "none" }]));
  expect(me.may("builder", 4)).toBe(true);
});

it("shows who came by a link that job alone", () => {
  const me = useMe();
  me.take({ ...nobody, share: { id: 1, job: 4, place: null, until: "2027-01-01T00:00:00Z", by: "Ada" }, token: "g" });
  expect([me.isIn, me.may("viewer", 4), me.may("crew", 4), me.may("viewer", 5), me.may("viewer")]).toEqual([
    true,
    true,
    false,
    false,
    false,
  ]);
});
