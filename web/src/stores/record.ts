import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";
import { api, sentence, type Check, type RecordEvent, type StepPicture, type StepState } from "../api/client";
import { tokenHeader } from "../api/token";
import { dropPhoto, keptPhoto } from "../lib/photo";
import { clockAhead, newId, standsNow, type Readings } from "../lib/site";
import { s } from "../strings";
import { useJob } from "./job";

const kept = <T>(key: string, otherwise: T): T => {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "null") ?? otherwise;
  } catch {
    return otherwise;
  }
};
const keep = (key: string, value: unknown) => localStorage.setItem(key, JSON.stringify(value));

/** Tried again after so long, ms. */
const AGAIN = 5000;

/** What is done on the wall: written down on the device first, and sent when somebody answers. Nothing leaves the device's list before it is on record. */
export const useRecord = defineStore("record", () => {
  const job = useJob();
  const jobId = ref(0);
  const who = ref(kept("kame-who", ""));
  /** Written down and not yet on record, in order. */
  const waiting = shallowRef<RecordEvent[]>([]);
  const states = shallowRef(new Map<string, StepState>());
  const checks = shallowRef<Check[]>([]);
  const pictures = shallowRef(new Map<string, StepPicture>());
  /** What was last said to each check on this device: good, not so, or written down and judged by nobody. */
  const said = shallowRef(new Map<string, boolean | null>());
  /** What was last read on this device, check by check. */
  const readHere = shallowRef<Readings>(new Map());
  /** Minutes by which this device's clock is ahead. */
  const ahead = ref(0);
  const refused = ref<string | null>(null);
  /** What was refused: it stays on the device and holds nothing else up. */
  const aside = shallowRef<RecordEvent[]>([]);
  const silent = ref(false);
  /** When the record was last heard of, for what is old to be shown as old. */
  const heard = ref("");
  /** How many entries the record has, as far as is known. */
  const entries = ref(0);
  let sending = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const key = () => `kame-waiting-${jobId.value}`;

  function open(id: number) {
    if (jobId.value === id) return;
    jobId.value = id;
    waiting.value = kept<RecordEvent[]>(key(), []);
    aside.value = kept<RecordEvent[]>(`kame-aside-${id}`, []);
    said.value = new Map(kept<[string, boolean | null][]>(`kame-said-${id}`, []));
    readHere.value = new Map(kept<[string, string[]][]>(`kame-read-${id}`, []));
    states.value = new Map();
    heard.value = kept(`kame-heard-${id}`, "");
    entries.value = 0;
    refused.value = null;
    void send();
    void look();
  }
  function setWho(name: string) {
    who.value = name.trim();
    keep("kame-who", who.value);
  }

  /** An entry as it would be written down. */
  function entry(
    what: RecordEvent["what"],
    at: { place: string; step: string },
    note = "",
    by = who.value,
    photos: string[] = [],
  ): RecordEvent {
    return {
      id: newId(Date.now(), crypto.getRandomValues(new Uint8Array(16))),
      who: by,
      at: new Date().toISOString(),
      place: at.place,
      step: at.step,
      revision: job.state?.revision ?? 0,
      what,
      note,
      photos,
    };
  }
  /** Writes something down. */
  function add(
    what: RecordEvent["what"],
    at: { place: string; step: string },
    note = "",
    by = who.value,
    photos: string[] = [],
  ) {
    const event = entry(what, at, note, by, photos);
    // Another window of the same device may have written something down meanwhile.
    waiting.value = [...together(waiting.value), event];
    if ("check" in what) {
      // What was mended is not good before somebody has looked again.
      const good = what.is === "mended" ? false : "good" in what ? (what.good ?? null) : null;
      said.value = new Map(said.value).set(what.check, good);
    }
    if (what.is === "reading") readHere.value = new Map(readHere.value).set(what.check, what.values);
    try {
      keep(key(), waiting.value);
      keep(`kame-said-${jobId.value}`, [...said.value]);
      keep(`kame-read-${jobId.value}`, [...readHere.value]);
    } catch {
      refused.value = s.site.full;
    }
    void send();
  }
  function together(mine: RecordEvent[]): RecordEvent[] {
    const ids = new Set(mine.map((e) => e.id));
    return [...mine, ...kept<RecordEvent[]>(key(), []).filter((e) => !ids.has(e.id))];
  }

  /** Sends what waits, in order; what was answered is on record and leaves the list. */
  async function send() {
    if (sending || waiting.value.length === 0) return;
    sending = true;
    clearTimeout(timer);
    const id = jobId.value;
    const events = waiting.value.slice(0, 200);
    try {
      await sendPhotos(id, events);
      const { data, error, response } = await api.POST("/api/jobs/{id}/record", {
        params: { path: { id } },
        body: { events },
      });
      ahead.value = clockAhead(Date.now(), response.headers.get("date"));
      if (data && id === jobId.value) {
        const there = new Set(data.map((e) => e.event.id));
        waiting.value = together(waiting.value).filter((e) => !there.has(e.id));
        keep(key(), waiting.value);
        silent.value = false;
        refused.value = null;
        // Only now may they leave the device: others that wait may name them too.
        const named = new Set([...waiting.value, ...aside.value].flatMap((e) => e.photos ?? []));
        for (const p of data.flatMap((e) => e.event.photos ?? [])) if (!named.has(p)) await dropPhoto(p);
        if (await look()) forget();
      } else if (error && response.status >= 400 && response.status < 500 && id === jobId.value) {
        silent.value = false;
        refused.value = sentence(error, String(response.status));
        setAside(events, error);
      } else silent.value = true;
    } catch {
      silent.value = true;
    }
    sending = false;
    if (waiting.value.length === 0) return;
    if (silent.value) timer = setTimeout(() => void send(), AGAIN);
    else if (!refused.value || waiting.value[0]?.id !== events[0]?.id || waiting.value.length < events.length)
      void send();
  }

  /** Sends the photographs that entries name, before them. One that this device has no more is left to the server to miss. */
  async function sendPhotos(id: number, events: RecordEvent[]) {
    for (const hash of new Set(events.flatMap((e) => e.photos ?? []))) {
      const bytes = await keptPhoto(hash);
      if (!bytes) continue;
      const answer = await fetch(`/api/jobs/${id}/photos/${hash}`, {
        method: "PUT",
        headers: { "content-type": "image/jpeg", ...tokenHeader() },
        body: bytes as Uint8Array<ArrayBuffer>,
      });
      // Refused for good it stays here, and the entry that names it is told so.
      if (!answer.ok && answer.status >= 500) throw new Error(String(answer.status));
    }
  }

  /** Takes out of the queue what the answer names, so that the rest goes on. */
  function setAside(events: RecordEvent[], refusal: { problems?: { path: string }[] }) {
    const named = (refusal.problems ?? []).flatMap((p) => /^\$\.events\[(\d+)\]/.exec(p.path)?.[1] ?? []);
    const ids = new Set(named.flatMap((n) => events[Number(n)]?.id ?? []));
    if (ids.size === 0) return;
    aside.value = [...aside.value, ...events.filter((e) => ids.has(e.id))];
    keep(`kame-aside-${jobId.value}`, aside.value);
    waiting.value = together(waiting.value).filter((e) => !ids.has(e.id));
    keep(key(), waiting.value);
  }

  /** How the steps stand by the record; true where it was heard. */
  async function look() {
    const id = jobId.value;
    // Before a job is open there is nothing to hear.
    if (id === 0) return false;
    try {
      const { data } = await api.GET("/api/jobs/{id}/stands", { params: { path: { id }, query: {} } });
      if (!data || id !== jobId.value || data.entries < entries.value) return false;
      silent.value = false;
      heard.value = new Date().toISOString();
      keep(`kame-heard-${id}`, heard.value);
      entries.value = data.entries;
      states.value = new Map(data.steps.map((x) => [x.step, x]));
      return true;
    } catch {
      silent.value = true;
      return false;
    }
  }
  /** What is on record is not remembered here as well, or others who say otherwise later would not be heard. */
  function forget() {
    const waits = new Set(waiting.value.flatMap((e) => ("check" in e.what ? [e.what.check] : [])));
    said.value = new Map([...said.value].filter(([check]) => waits.has(check)));
    readHere.value = new Map([...readHere.value].filter(([check]) => waits.has(check)));
    keep(`kame-said-${jobId.value}`, [...said.value]);
    keep(`kame-read-${jobId.value}`, [...readHere.value]);
  }
  /** Checks and pictures of a place; of the walls themselves where it is empty. */
  async function loadPlace(place: string) {
    const [id, params] = [jobId.value, { path: { id: jobId.value }, query: { opening: place } }];
    const found = await Promise.all([
      api.GET("/api/jobs/{id}/checks", { params }),
      api.GET("/api/jobs/{id}/pictures", { params }),
    ]).catch(() => null);
    if (!found || id !== jobId.value) return;
    checks.value = found[0].data ?? [];
    pictures.value = new Map((found[1].data ?? []).map((p) => [p.step, p]));
  }

  /** What was last read, here or on record. */
  const readings = computed<Readings>(() => {
    const all: Readings = new Map();
    for (const x of states.value.values()) for (const r of x.read) all.set(r.check, r.values);
    readHere.value.forEach((values, check) => all.set(check, values));
    return all;
  });
  const byStep = computed(() => {
    const map = new Map<string, RecordEvent[]>();
    for (const e of waiting.value) map.set(e.step ?? "", [...(map.get(e.step ?? "") ?? []), e]);
    return map;
  });
  const now = (step: string): StepState["now"] =>
    standsNow(states.value.get(step)?.now ?? "open", byStep.value.get(step) ?? []);

  addEventListener("online", () => void send());
  return {
    who,
    waiting,
    states,
    checks,
    pictures,
    said,
    readings,
    ahead,
    heard,
    entry,
    refused,
    aside,
    silent,
    entries,
    open,
    setWho,
    add,
    send,
    look,
    loadPlace,
    now,
  };
});
