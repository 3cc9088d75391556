<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import { computed, inject, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import type { Findable } from "../lib/find";
import { darkKey } from "../lib/theme-key";
import { verdictOf } from "../lib/verdict";
import { useJob } from "../stores/job";
import { useMe } from "../stores/me";
import { s } from "../strings";
import HatchPatterns from "../wall/HatchPatterns.vue";
import CommandPalette from "./CommandPalette.vue";
import HelpSheet from "./HelpSheet.vue";
import HistoryList from "./HistoryList.vue";
import KameMark from "./KameMark.vue";
import StaleDialog from "./StaleDialog.vue";
import { roomAddress, roomOf, rooms, type Room } from "./rooms";
import { useShortcuts } from "./useShortcuts";
import { useStanding } from "./useStanding";

/** The frame in which every screen of a job hangs: its name and state, one navigation, undo, what is saved, and finding by typing. */
const job = useJob();
const me = useMe();
const route = useRoute();
const router = useRouter();
const dark = inject(darkKey, ref(false));
const help = ref(false);
const finding = ref(false);
const id = computed(() => String(route.params.id));
const here = computed(() => roomOf(route.name, route.params.tab));
const { behind, silent } = useStanding();

watch(
  id,
  (now) => {
    const wanted = Number(now);
    if (Number.isFinite(wanted) && job.state?.id !== wanted) void job.open(wanted);
  },
  { immediate: true },
);
const verdict = computed(() => (job.view ? verdictOf(job.view.verdict) : null));
const state = computed(() => {
  if (silent.value) return { text: s.shell.offline, title: s.shell.offlineHelp, kind: "silent" };
  if (job.sending > 0) return { text: s.shell.saving, title: "", kind: "" };
  return { text: s.shell.saved, title: "", kind: "" };
});
/** A link shows the wall and the step sheets, or these alone. */
const shown = computed(() => {
  const share = me.me?.share;
  return share ? rooms.filter((r) => r.id === "sheet" || (r.id === "wall" && !share.place)) : rooms;
});
const go = (room: Room["id"]) => router.push(roomAddress(room, id.value));
const commands = computed<Findable[]>(() => [
  { kind: "command", id: "undo", label: s.wall.undo(job.state?.undo ?? ""), more: "Ctrl Z" },
  { kind: "command", id: "redo", label: s.wall.redo(job.state?.redo ?? ""), more: "Ctrl Shift Z" },
  { kind: "command", id: "dark", label: dark.value ? s.wall.light : s.wall.dark, more: "" },
  { kind: "command", id: "keys", label: s.help.title, more: "?" },
  { kind: "command", id: "compare", label: s.made.compare, more: "" },
  { kind: "command", id: "schedule", label: s.schedule.title, more: "" },
  { kind: "command", id: "jobs", label: s.wall.back, more: "" },
]);
const params = computed(() => ({ id: id.value }));
const acts: Record<string, () => unknown> = {
  undo: () => job.travel("undo"),
  redo: () => job.travel("redo"),
  dark: () => (dark.value = !dark.value),
  keys: () => (help.value = true),
  compare: () => router.push({ name: "compare", params: params.value }),
  schedule: () => router.push({ name: "schedule", params: params.value }),
  jobs: () => router.push("/"),
};
/** Each thing that is found has an address. */
function take(x: Findable) {
  if (x.kind === "command") return void acts[x.id]?.();
  if (x.kind === "room") return void go(x.id as Room["id"]);
  if (x.kind === "figure")
    return void router.push({ name: "truck", params: { id: id.value, tab: "figures" }, query: { find: x.id } });
  void router.push({ name: "wall", params: params.value, query: queryTo(x) });
}
function queryTo(x: Findable): Record<string, string> {
  if (x.kind !== "piece") return { [x.kind]: x.id };
  // A piece is shown at its place, with the step that sets it; those of the walls have no place.
  const at = x.id.includes("/") ? (x.id.split("/")[0] ?? "") : "";
  const step = job.view?.steps.find((t) => t.opening === at && t.cuts.some((c) => c.name === x.label));
  return { ...(at ? { place: at } : {}), ...(step ? { step: step.id } : {}) };
}
useShortcuts({
  "ctrl z": () => void job.travel("undo"),
  "ctrl shift z": () => void job.travel("redo"),
  "ctrl y": () => void job.travel("redo"),
  "ctrl k": () => (finding.value = true),
  "/": () => (finding.value = true),
  "?": () => (help.value = true),
});
</script>

<template>
  <svg class="hatches" aria-hidden="true" focusable="false"><HatchPatterns /></svg>
  <div class="frame" :class="{ filled: here === 'wall' && route.name === 'wall', onsite: here === 'site' }">
    <header class="top">
      <RouterLink to="/" class="home" :aria-label="s.wall.back"><KameMark /></RouterLink>
      <div class="name">
        <h1 :title="job.state?.job.name">{{ job.state?.job.name ?? s.kame }}</h1>
        <span v-if="verdict" class="state" :class="verdict.kind" :title="verdict.text" data-test="job-state"
          ><span aria-hidden="true">{{ verdict.mark }}</span> {{ verdict.text }}</span
        >
      </div>
      <nav class="rooms no-print" :aria-label="s.shell.rooms">
        <RouterLink
          v-for="r in shown"
          :key="r.id"
          :to="roomAddress(r.id, id)"
          :aria-current="here === r.id ? 'page' : undefined"
          :class="{ beside: r.id === 'kit' }"
          :data-test="`to-${r.id === 'cut' ? 'cut-list' : r.id}`"
          >{{ r.label }}</RouterLink
        >
      </nav>
      <div class="tools no-print">
        <Button text :label="s.shell.find" title="Ctrl K" data-test="find" @click="finding = true" />
        <span v-if="!job.mayChange" class="saved" :title="s.shell.looksOnlyHelp" data-test="looks-only">{{
          s.shell.looksOnly
        }}</span>
        <Button
          v-if="job.mayChange"
          text
          :label="s.wall.undoShort"
          :title="s.wall.undo(job.state?.undo ?? '')"
          :disabled="!job.state?.undo"
          data-test="undo"
          @click="job.travel('undo')"
        />
        <Button
          v-if="job.mayChange"
          text
          :label="s.wall.redoShort"
          :title="s.wall.redo(job.state?.redo ?? '')"
          :disabled="!job.state?.redo"
          data-test="redo"
          @click="job.travel('redo')"
        />
        <Button
          v-if="behind && !silent"
          text
          class="behind"
          :label="s.shell.behind"
          :title="s.shell.behindHelp"
          data-test="behind"
          @click="job.refresh()"
        />
        <span v-else class="saved" :class="state.kind" :title="state.title" role="status" data-test="saved">{{
          state.text
        }}</span>
        <Button text :label="dark ? s.wall.light : s.wall.dark" @click="dark = !dark" />
        <Button text :label="s.wall.help" data-test="help-button" @click="help = true" />
      </div>
    </header>
    <Message
      v-if="job.error && job.state"
      class="problem"
      severity="error"
      closable
      data-test="error"
      @close="job.error = null"
      >{{ job.error }}</Message
    >
    <div v-if="job.error && !job.state" class="nothing" role="alert">
      <h2>{{ job.missing ? s.errors.notFound : s.errors.title }}</h2>
      <p>{{ job.error }}</p>
      <p class="row">
        <Button :label="s.errors.retry" @click="job.open(Number(id))" />
        <Button severity="secondary" :label="s.wall.back" @click="router.push('/')" />
      </p>
      <template v-if="job.unreadable">
        <p>{{ s.history.help }}</p>
        <HistoryList :id="Number(id)" @taken="job.open(Number(id))" />
      </template>
    </div>
    <RouterView v-else />
    <HelpSheet v-model="help" />
    <CommandPalette v-model="finding" :commands="commands" @go="take" />
    <StaleDialog />
  </div>
</template>

<style scoped>
/* One set of hatches for all drawings: their ids stand once in the page. */
.hatches {
  position: absolute;
  width: 0;
  height: 0;
}
.frame {
  display: flex;
  flex-direction: column;
  min-height: 100dvh;
}
.filled {
  height: 100dvh;
}
.top {
  display: flex;
  flex-wrap: nowrap;
  gap: 10px;
  align-items: center;
  min-height: 48px;
  padding: 0 12px;
  color: var(--shell-ink);
  background: var(--shell);
}
.home {
  display: grid;
}
.name {
  flex: 1 1 160px;
  min-width: 120px;
  line-height: 1.15;
}
h1 {
  font-size: 0.95rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.state {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 0.78rem;
  opacity: 0.95;
}
.rooms {
  display: flex;
}
.rooms a {
  display: grid;
  place-items: center;
  min-height: 48px;
  padding: 0 9px;
  font-size: 0.92rem;
  color: inherit;
  text-decoration: none;
  white-space: nowrap;
  border-bottom: 4px solid transparent;
  border-top: 4px solid transparent;
}
.rooms a:hover {
  background: rgb(255 255 255 / 14%);
}
.rooms a[aria-current="page"] {
  font-weight: 700;
  background: rgb(255 255 255 / 9%);
  border-bottom-color: var(--shell-ink);
}
.rooms .beside {
  margin-left: 8px;
}
.tools {
  display: flex;
  align-items: center;
}
.top :deep(.p-button-text) {
  color: inherit;
  padding-inline: 7px;
}
.top :deep(.p-button-text:hover) {
  background: rgb(255 255 255 / 14%);
  color: inherit;
}
.top :deep(.behind) {
  font-weight: 700;
  text-decoration: underline;
}
.saved {
  min-width: 58px;
  padding: 0 6px;
  font-size: 0.82rem;
  text-align: center;
  opacity: 0.85;
}
.saved.silent {
  padding: 2px 6px;
  color: #1b2422;
  background: #fbe9cd;
  opacity: 1;
  font-weight: 700;
}
.problem {
  border-radius: 0;
}
.nothing {
  margin: auto;
  max-width: 460px;
  padding: 24px;
  text-align: center;
}
.nothing .row {
  display: flex;
  gap: 8px;
  justify-content: center;
  margin-top: 14px;
}
@media (max-width: 1180px) {
  .rooms a {
    padding: 0 6px;
  }
}
@media (max-width: 1020px) {
  .top {
    flex-wrap: wrap;
  }
  .rooms {
    order: 3;
    width: 100%;
    overflow-x: auto;
  }
}
@media (max-width: 760px) {
  .filled {
    height: auto;
  }
  .top {
    padding: 4px 10px;
    gap: 2px 8px;
  }
  .tools {
    width: 100%;
    overflow-x: auto;
  }
  .tools :deep(button) {
    flex: none;
    min-height: 44px;
    white-space: nowrap;
  }
  /* With a glove on nobody undoes or looks up keys: the step gets the room. */
  .onsite .tools {
    width: auto;
  }
  .onsite .tools :deep(button) {
    display: none;
  }
  /* At the thumb. */
  .rooms {
    position: fixed;
    right: 0;
    bottom: 0;
    left: 0;
    z-index: 5;
    background: var(--shell);
    border-top: 1px solid var(--line);
  }
  .rooms a {
    flex: 1 0 auto;
    min-height: 52px;
    padding: 0 12px;
  }
  .frame {
    padding-bottom: 53px;
  }
}
@media print {
  .top {
    color: #000;
    background: none;
  }
}
</style>
