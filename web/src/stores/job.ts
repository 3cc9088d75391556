import { useThrottleFn } from "@vueuse/core";
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";
import {
  api,
  type Edit,
  type Finding,
  type JobAnswer,
  type JobState,
  type Moment,
  type Night,
  type Remedy,
  type Phase,
  type Trade,
  type SectionKind,
  type WallView,
  type Weather,
} from "../api/client";
import { Kept } from "../lib/kept";
import { completed, wholeState } from "../lib/merged";
import { Refusal, failure, inTurn, isAsking, newest, overtake } from "../lib/requests";
import { s } from "../strings";
import { useMe } from "./me";

/** The moment as a query: what is not asked is left out. */
type Query = { [K in keyof Moment]?: NonNullable<Moment[K]> };

export interface Filter {
  trade: Trade | null;
  phase: Phase | null;
  product: string | null;
  fault: string | null;
}
const EVERYTHING: Filter = { trade: null, phase: null, product: null, fault: null };

/** Pulling the scrubber asks for no more moments than one in so many ms. */
const PULLED_MS = 50;
/** So many moments that were shown, or may be shown next, are kept. */
const MOST_MOMENTS = 12;

/** One job on the screen: its state, its wall at the moment shown, and every change to it. */
export const useJob = defineStore("job", () => {
  const state = shallowRef<JobState | null>(null);
  /** False where who has signed in may only look: what changes the job is not offered then. */
  const mayChange = computed(() => state.value === null || useMe().may("builder", state.value.id));
  const view = shallowRef<WallView | null>(null);
  /** The wall under the pointer while something is dragged. */
  const previewed = shallowRef<WallView | null>(null);
  const done = ref<number | null>(null);
  const weather = ref<Weather>("dry");
  const section = ref<SectionKind | null>(null);
  const cutAt = ref(0.5);
  /** The wall is shown as it is built today, by the record. */
  const built = ref(false);
  /** True while the cut list is looked at. */
  const cuts = ref(false);
  /** The chosen opening, whatever its place among the others becomes. */
  const openingId = ref<string | null>(null);
  const opening = computed({
    get: () => Math.max(0, state.value?.job.openings?.findIndex((o) => o.id === openingId.value) ?? 0),
    set: (i: number) => (openingId.value = state.value?.job.openings?.[i]?.id ?? null),
  });
  /** Whose questions are asked: 0 all walls', else one wall's, from 1 behind the first corner. */
  const wall = ref(0);
  /** True where the stack is drawn apart in place of a section. */
  const apart = ref(false);
  /** Every night of the order in force; null until it is asked for. */
  const nights = shallowRef<Night[] | null>(null);
  const chosen = ref<string | null>(null);
  const finding = ref<number | null>(null);
  const error = ref<string | null>(null);
  const missing = ref(false);
  /** True where the job is there and does not read as it stands. */
  const unreadable = ref(false);
  /** Changes that are on their way. */
  const sending = ref(0);
  /** The change that met a newer state. */
  const stale = shallowRef<{ edit: Edit | null; what: string } | null>(null);

  /** What is looked at: nothing chosen is everything. */
  const filter = ref<Filter>({ ...EVERYTHING });
  const shown = computed(() => previewed.value ?? view.value);
  const moment = computed<Moment>(() => ({
    done: done.value,
    weather: weather.value,
    section: section.value,
    opening: opening.value,
    exploded: apart.value,
    at: cutAt.value,
    wall: wall.value,
    cuts: cuts.value,
    built: built.value,
  }));
  const query = (at = done.value) => {
    const m: Query = { weather: weather.value, opening: opening.value, at: cutAt.value, exploded: apart.value };
    if (at !== null) m.done = at;
    if (section.value !== null) m.section = section.value;
    if (nights.value) m.nights = true;
    if (wall.value > 0) m.wall = wall.value;
    if (cuts.value) m.cuts = true;
    if (built.value) m.built = true;
    return m;
  };
  /** What is known of the plan already, so that only the moment travels. */
  let planOf = "";
  /** What the server need not say again. */
  const had = () => (planOf && view.value ? { have: planOf, drawn: view.value.elevation.called } : {});
  /** True where the cut list is known. */
  const hasCuts = ref(false);
  const standing = (of: JobAnswer["state"], asked: Query) =>
    `${of.revision}.${of.bench}.${asked.wall ?? 0}${asked.cuts ? ".cuts" : ""}`;
  /** Revision and bench of a plan by what it is called. */
  const standingOf = (plan: string) => plan.split(".", 2).join(".");
  const currentFinding = computed<Finding | null>(
    () => view.value?.findings.find((f) => f.number === finding.value) ?? null,
  );

  /** The job that is open; what was asked about another is not shown. */
  let opened: number | null = null;
  const momentAsked = () => JSON.stringify(query());

  function show(whole: WallView) {
    view.value = whole;
    previewed.value = null;
    error.value = null;
    if (finding.value !== null && !whole.findings.some((f) => f.number === finding.value)) finding.value = null;
  }

  // Moments of the plan as it stands: going back to one, or on to the next, waits for nobody.
  const moments = new Kept<WallView>(MOST_MOMENTS);
  const nameOf = (asked: Query) => `${opened} ${planOf} ${JSON.stringify(asked)}`;
  /** Keeps a moment; nights are told anew with every answer, and what is built today follows the record. */
  function keep(asked: Query, whole: WallView) {
    if (planOf && !asked.nights) moments.put(nameOf(asked), whole);
  }
  /** The moment that is asked for ahead. */
  let ahead: { name: string; comes: Promise<void> } | null = null;
  /** Asks for a moment that may be wanted next. */
  async function lookAhead(to: number) {
    const [id, now, plan] = [opened, view.value, planOf];
    if (id === null || !now || !plan || nights.value || to < 0 || to > total.value) return;
    const asked = query(to === total.value ? null : to);
    const name = nameOf(asked);
    if (isAsking("view") || sending.value > 0 || ahead?.name === name || moments.get(name)) return;
    const params = { path: { id }, query: { ...asked, ...had() } };
    const comes = newest("ahead", (signal) => api.GET("/api/jobs/{id}", { params, signal })).then(
      (answer) => {
        const same = answer && plan === planOf && `${answer.state.revision}.${answer.state.bench}` === standingOf(plan);
        const whole = same ? completed(answer.view, now, plan) : null;
        if (whole) keep(asked, whole);
      },
      // Whoever goes there asks again and is told what is wrong.
      () => undefined,
    );
    ahead = { name, comes };
    await comes;
    if (ahead?.name === name) ahead = null;
  }

  /** Shows an answer, unless another job was opened or something newer came meanwhile. */
  function take(answer: JobAnswer, moment: string) {
    const [told, before] = [answer.state, state.value];
    if (told.id !== opened) return;
    if (before && (told.revision < before.revision || (told.revision === before.revision && told.bench < before.bench)))
      return;
    // Nights come with every answer until they are put away.
    if (nights.value && answer.nights) nights.value = answer.nights;
    const [now, whole] = [wholeState(told, before, planOf), completed(answer.view, view.value, planOf)];
    if (!now || !whole) return void refresh();
    const asked = JSON.parse(moment) as Query;
    // The order in which it was done is not that of the plan.
    planOf = asked.built ? "" : standing(now, asked);
    hasCuts.value = asked.cuts === true;
    state.value = now;
    // What was chosen may have been taken off the wall.
    if (wall.value > (now.job.wall.corners?.length ?? 0)) wall.value = 0;
    show(whole);
    keep(asked, whole);
    // What is looked at was changed while this was under way.
    if (moment !== momentAsked() && !isAsking("view") && pulls === 0) void refresh();
  }

  async function load(id: number) {
    const moment = momentAsked();
    try {
      const have = state.value?.id === id ? had() : {};
      const params = { path: { id }, query: { ...query(), ...have } };
      const answer = await newest("view", (signal) => api.GET("/api/jobs/{id}", { params, signal }));
      if (answer) take(answer, moment);
    } catch (e) {
      if (id !== opened) return;
      missing.value = e instanceof Refusal && e.status === 404;
      unreadable.value = e instanceof Refusal && e.status === 409;
      error.value = failure(e);
    }
  }

  /** Asks for the nights; they come with every answer after that until they are put away. */
  async function loadNights(id = state.value?.id) {
    if (id === undefined) return;
    try {
      const params = { path: { id } };
      const found = await newest("nights", (signal) => api.GET("/api/jobs/{id}/nights", { params, signal }));
      if (found && id === opened) nights.value = found;
    } catch (e) {
      if (id === opened) error.value = failure(e);
    }
  }
  /** What was tried for the findings of the finished wall, by their number; null until it is known for the revision shown. */
  const remedies = shallowRef<Map<number, Remedy> | null>(null);
  let triedFor = -1;
  /** Tries remedies for what is found on the finished wall. */
  function loadRemedies() {
    if (triedFor !== state.value?.revision || remedies.value !== null) trying = tryRemedies();
    return trying;
  }
  /** Trying under way. */
  let trying: Promise<void> = Promise.resolve();
  async function tryRemedies() {
    const [id, revision] = [state.value?.id, state.value?.revision];
    const worry = view.value?.findings.some((f) => f.severity !== "glue" && f.severity !== "note");
    if (id === undefined || revision === undefined || !view.value?.verdict.finished || !worry) {
      remedies.value = null;
      triedFor = -1;
      return;
    }
    if (triedFor === revision) return;
    remedies.value = null;
    triedFor = revision;
    try {
      const params = { path: { id } };
      const found = await newest("remedies", (signal) => api.GET("/api/jobs/{id}/remedies", { params, signal }));
      if (found && id === opened && found.revision === state.value?.revision) {
        remedies.value = new Map(found.remedies.map((r) => [r.finding, r]));
      } else if (found) triedFor = -1;
    } catch {
      // The findings stand as they are; looking again tries again.
      triedFor = -1;
    }
  }
  /** Does what was tried for a finding. */
  async function takeRemedy(number: number) {
    // Asked for before they are known, it is done when they are, unless the wall is another by then.
    const revision = state.value?.revision;
    if (remedies.value === null) await loadRemedies();
    if (state.value?.revision !== revision) return;
    const remedy = remedies.value?.get(number);
    if (!remedy?.edit) return;
    if (remedy.step && view.value?.steps.some((x) => x.id === remedy.step)) chosen.value = remedy.step;
    await change(remedy.edit, remedy.words);
  }
  const tonight = computed<Night | null>(() => nights.value?.find((n) => n.done >= (view.value?.done ?? 0)) ?? null);

  async function open(id: number) {
    opened = id;
    moments.clear();
    ["view", "ahead", "nights", "remedies"].forEach((name) => void overtake(name));
    remedies.value = null;
    triedFor = -1;
    // What was looked at on another wall may not be on this one.
    showEverything();
    state.value = null;
    view.value = null;
    previewed.value = null;
    missing.value = false;
    unreadable.value = false;
    nights.value = null;
    stale.value = null;
    [done.value, finding.value, chosen.value, openingId.value] = [null, null, null, null];
    await load(id);
  }

  /** Asks again for the moment shown. */
  async function refresh() {
    if (opened !== null) await load(opened);
  }

  function changeFailed(e: unknown, edit: Edit | null, what: string) {
    previewed.value = null;
    if (e instanceof Refusal && e.status === 412) {
      stale.value = { edit, what };
      void refresh();
    } else {
      error.value = failure(e);
    }
  }

  /**
   * Sends a change of the job that is open now; true where it was kept. Changes wait for each other, so that quick hands never meet their own
   * newer state; one that waits when another job is opened is not sent.
   */
  async function send(
    edit: Edit | null,
    what: string,
    post: (params: { path: { id: number }; header: { "If-Match": string }; query: Query }) => ReturnType<typeof posted>,
  ): Promise<boolean> {
    const id = state.value?.id;
    if (id === undefined) return false;
    // Who may not change it is told at once, and nobody is asked.
    if (!mayChange.value) {
      error.value = s.shell.looksOnlyHelp;
      return false;
    }
    let moment = "";
    sending.value++;
    try {
      const answer = await inTurn(`job ${id}`, () => {
        const now = state.value;
        if (!now || now.id !== id || id !== opened) return null;
        moment = momentAsked();
        return post({ path: { id }, header: { "If-Match": `"${now.revision}"` }, query: { ...query(), ...had() } });
      });
      if (answer) take(answer, moment);
      return answer !== undefined;
    } catch (e) {
      if (id === opened) changeFailed(e, edit, what);
      return false;
    } finally {
      sending.value--;
    }
  }
  const posted = (params: Parameters<Parameters<typeof send>[2]>[0], body: Edit) =>
    api.POST("/api/jobs/{id}/edits", { params, body });

  /** One change; true where it was kept. */
  const change = (edit: Edit, what = "") => send(edit, what, (params) => posted(params, edit));

  async function travel(direction: "undo" | "redo") {
    if (!state.value?.[direction]) return;
    await send(null, direction, (params) =>
      direction === "undo" ? api.POST("/api/jobs/{id}/undo", { params }) : api.POST("/api/jobs/{id}/redo", { params }),
    );
  }

  /** Ticks a piece off at the bench, or not: it is shown at once, and nobody has to wait for it. */
  async function tick(piece: string, cut: boolean, roll: number) {
    const id = state.value?.id;
    if (id === undefined || !view.value) return;
    const cut_list = view.value.cut_list.map((g) => ({
      ...g,
      pieces: g.pieces.map((p) => (p.id === piece ? { ...p, cut } : p)),
    }));
    view.value = { ...view.value, cut_list };
    sending.value++;
    try {
      const body = { piece, cut, roll: roll > 0 ? roll : null };
      await inTurn(`bench ${id}`, () => api.POST("/api/jobs/{id}/ticks", { params: { path: { id } }, body }));
    } catch (e) {
      if (id === opened) error.value = failure(e);
    }
    if (id === opened) await refresh();
    sending.value--;
  }

  // While dragging one preview is under way at a time, and the newest wish waits.
  let previewing = false;
  let wish: Edit | null = null;
  async function preview(change: Edit) {
    wish = change;
    if (previewing || !state.value) return;
    previewing = true;
    while (wish && state.value) {
      const [now, { id }]: [Edit, JobState] = [wish, state.value];
      wish = null;
      try {
        const body = { change: now, moment: { ...moment.value, ...had() } };
        const data = await newest("preview", (signal) =>
          api.POST("/api/jobs/{id}/preview", { params: { path: { id } }, body, signal }),
        );
        const whole = data && completed(data, view.value, planOf);
        if (whole && dragging.value && id === opened) previewed.value = whole;
      } catch {
        wish = null;
      }
    }
    previewing = false;
  }
  const dragging = ref(false);
  function endDrag() {
    dragging.value = false;
    wish = null;
  }

  const total = computed(() => view.value?.total ?? 0);
  const pulled = useThrottleFn(refresh, PULLED_MS, true, true);
  /** How often the scrubber was pulled and is not answered yet. */
  let pulls = 0;
  async function goTo(n: number) {
    const to = Math.max(0, Math.min(n, total.value));
    done.value = to === total.value ? null : to;
    built.value = false;
    const name = nameOf(query());
    if (ahead?.name === name) await ahead.comes;
    else void overtake("ahead");
    const known = moments.get(name);
    if (known && name === nameOf(query())) {
      void overtake("view");
      return show(known);
    }
    pulls++;
    try {
      await pulled();
    } finally {
      pulls--;
    }
  }

  const isFiltered = computed(() => Object.values(filter.value).some((f) => f !== null));
  const showEverything = () => (filter.value = { ...EVERYTHING });
  return {
    filter,
    isFiltered,
    showEverything,
    state,
    mayChange,
    view,
    shown,
    previewed,
    done,
    weather,
    section,
    cutAt,
    built,
    cuts,
    hasCuts,
    opening,
    openingId,
    wall,
    apart,
    nights,
    tonight,
    remedies,
    loadRemedies,
    takeRemedy,
    loadNights,
    chosen,
    finding,
    currentFinding,
    error,
    missing,
    unreadable,
    stale,
    dragging,
    total,
    open,
    refresh,
    sending,
    change,
    tick,
    travel,
    preview,
    endDrag,
    goTo,
    lookAhead,
  };
});
