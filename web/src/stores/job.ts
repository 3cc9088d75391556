import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";
import {
  api,
  sentence,
  type Edit,
  type Finding,
  type JobAnswer,
  type JobState,
  type Moment,
  type Night,
  type Phase,
  type Trade,
  type SectionKind,
  type WallView,
  type Weather,
} from "../api/client";
import { s } from "../strings";

/** The moment as a query: what is not asked is left out. */
type Query = { [K in keyof Moment]?: NonNullable<Moment[K]> };

export interface Filter {
  trade: Trade | null;
  phase: Phase | null;
  product: string | null;
  fault: string | null;
}
const EVERYTHING: Filter = { trade: null, phase: null, product: null, fault: null };

/** One job on the screen: its state, its wall at the moment shown, and every change to it. */
export const useJob = defineStore("job", () => {
  const state = shallowRef<JobState | null>(null);
  const view = shallowRef<WallView | null>(null);
  /** The wall under the pointer while something is dragged. */
  const previewed = shallowRef<WallView | null>(null);
  const done = ref<number | null>(null);
  const weather = ref<Weather>("dry");
  const section = ref<SectionKind | null>(null);
  const cutAt = ref(0.5);
  const opening = ref(0);
  /** Whose questions are asked: 0 all walls', else one wall's, from 1 behind the first corner. */
  const wall = ref(0);
  /** True where the stack is drawn apart in place of a section. */
  const apart = ref(false);
  /** Every evening of the order in force; null until it is asked for. */
  const nights = shallowRef<Night[] | null>(null);
  const chosen = ref<string | null>(null);
  const finding = ref<number | null>(null);
  const error = ref<string | null>(null);
  const missing = ref(false);
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
  }));
  const query = () => {
    const m: Query = { weather: weather.value, opening: opening.value, at: cutAt.value, exploded: apart.value };
    if (done.value !== null) m.done = done.value;
    if (section.value !== null) m.section = section.value;
    if (nights.value) m.nights = true;
    if (wall.value > 0) m.wall = wall.value;
    return m;
  };
  const currentFinding = computed<Finding | null>(
    () => view.value?.findings.find((f) => f.number === finding.value) ?? null,
  );

  // Answers can overtake each other: only the newest asked is shown.
  let asked = 0;
  function take(number: number, answer: JobAnswer) {
    if (number !== asked) return;
    // Evenings come with every answer until they are put away.
    if (nights.value && answer.nights) nights.value = answer.nights;
    state.value = answer.state;
    view.value = answer.view;
    previewed.value = null;
    error.value = null;
    // What was chosen may have been taken off the wall.
    if (opening.value >= (answer.state.job.openings?.length ?? 0)) opening.value = 0;
    if (wall.value > (answer.state.job.wall.corners?.length ?? 0)) wall.value = 0;
    if (finding.value !== null && !answer.view.findings.some((f) => f.number === finding.value)) finding.value = null;
  }

  async function load(id: number) {
    const mine = ++asked;
    try {
      const {
        data,
        error: problem,
        response,
      } = await api.GET("/api/jobs/{id}", { params: { path: { id }, query: query() } });
      if (data) take(mine, data);
      else {
        missing.value = response.status === 404;
        error.value = sentence(problem, s.errors.offline);
      }
    } catch {
      error.value = s.errors.offline;
    }
  }

  /** Asks for the evenings; they come with every answer after that until they are put away. */
  async function loadNights(id = state.value?.id) {
    if (id === undefined) return;
    try {
      const { data, error: problem } = await api.GET("/api/jobs/{id}/nights", { params: { path: { id } } });
      if (data) nights.value = data;
      else error.value = sentence(problem, s.errors.offline);
    } catch {
      error.value = s.errors.offline;
    }
  }
  const tonight = computed<Night | null>(() => nights.value?.find((n) => n.done >= (view.value?.done ?? 0)) ?? null);

  async function open(id: number) {
    // What was looked at on another wall may not be on this one.
    showEverything();
    state.value = null;
    view.value = null;
    missing.value = false;
    nights.value = null;
    [done.value, finding.value, chosen.value, opening.value] = [null, null, null, 0];
    await load(id);
  }

  /** Asks again for the moment shown. */
  async function refresh() {
    if (state.value) await load(state.value.id);
  }

  /** Shows what others change as it comes, until the answer is called. */
  function follow(id: number) {
    const told = new EventSource(`/api/jobs/${id}/changes`);
    told.addEventListener("revision", (e: MessageEvent<string>) => {
      const now = state.value;
      if (now?.id === id && now.revision !== Number(e.data)) {
        void inTurn(async () => {
          if (state.value?.revision !== Number(e.data)) await refresh();
        });
      }
    });
    return () => told.close();
  }

  function changeFailed(problem: unknown, status: number, edit: Edit | null, what: string) {
    previewed.value = null;
    if (status === 412) {
      stale.value = { edit, what };
      void refresh();
    } else {
      error.value = sentence(problem, s.errors.offline);
    }
  }

  // Changes wait for each other, so that quick hands never meet their own newer state.
  let last: Promise<unknown> = Promise.resolve();
  function inTurn<T>(work: () => Promise<T>): Promise<T> {
    const turn = last.then(work, work);
    last = turn;
    return turn;
  }

  /** One change; true where it was kept. */
  function change(edit: Edit, what = ""): Promise<boolean> {
    return inTurn(() => send(edit, what));
  }
  async function send(edit: Edit, what: string): Promise<boolean> {
    const now = state.value;
    if (!now) return false;
    const mine = ++asked;
    try {
      const params = { path: { id: now.id }, header: { "If-Match": `"${now.revision}"` }, query: query() };
      const { data, error: problem, response } = await api.POST("/api/jobs/{id}/edits", { params, body: edit });
      if (data) take(mine, data);
      else changeFailed(problem, response.status, edit, what);
      return data !== undefined;
    } catch {
      previewed.value = null;
      error.value = s.errors.offline;
      return false;
    }
  }

  function travel(direction: "undo" | "redo") {
    return inTurn(() => go(direction));
  }
  async function go(direction: "undo" | "redo") {
    const now = state.value;
    if (!now || !now[direction]) return;
    const mine = ++asked;
    try {
      const params = { path: { id: now.id }, header: { "If-Match": `"${now.revision}"` }, query: query() };
      const {
        data,
        error: problem,
        response,
      } = await (direction === "undo"
        ? api.POST("/api/jobs/{id}/undo", { params })
        : api.POST("/api/jobs/{id}/redo", { params }));
      if (data) take(mine, data);
      else changeFailed(problem, response.status, null, direction);
    } catch {
      error.value = s.errors.offline;
    }
  }

  // While dragging one preview is under way at a time, and the newest wish waits.
  let previewing = false;
  let wish: Edit | null = null;
  async function preview(change: Edit) {
    wish = change;
    if (previewing || !state.value) return;
    previewing = true;
    while (wish && state.value) {
      const now: Edit = wish;
      wish = null;
      try {
        const { data } = await api.POST("/api/jobs/{id}/preview", {
          params: { path: { id: state.value.id } },
          body: { change: now, moment: moment.value },
        });
        if (data && dragging.value) previewed.value = data;
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
  function goTo(n: number) {
    const to = Math.max(0, Math.min(n, total.value));
    done.value = to === total.value ? null : to;
    return refresh();
  }

  const isFiltered = computed(() => Object.values(filter.value).some((f) => f !== null));
  const showEverything = () => (filter.value = { ...EVERYTHING });
  return {
    filter,
    isFiltered,
    showEverything,
    state,
    view,
    shown,
    previewed,
    done,
    weather,
    section,
    cutAt,
    opening,
    wall,
    apart,
    nights,
    tonight,
    loadNights,
    chosen,
    finding,
    currentFinding,
    error,
    missing,
    stale,
    dragging,
    total,
    open,
    refresh,
    follow,
    change,
    travel,
    preview,
    endDrag,
    goTo,
  };
});
