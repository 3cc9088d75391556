<script setup lang="ts">
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import { computed, nextTick, ref, watch } from "vue";
import { findables, found, type Findable } from "../lib/find";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** Finds any opening, piece, step, finding, figure and command by typing. */
const open = defineModel<boolean>({ required: true });
const props = defineProps<{ commands: Findable[] }>();
const emit = defineEmits<{ go: [to: Findable] }>();
const job = useJob();
const typed = ref("");
const at = ref(0);
const list = ref<HTMLUListElement | null>(null);
const all = computed(() =>
  open.value && job.state && job.view ? findables({ state: job.state, view: job.view }, props.commands) : [],
);
const lines = computed(() => found(all.value, typed.value));
const key = (x: Findable) => `${x.kind}-${x.id}`;
watch(typed, () => (at.value = 0));
watch(open, () => ([typed.value, at.value] = ["", 0]));
async function step(by: number) {
  const n = lines.value.length;
  if (n === 0) return;
  at.value = (at.value + by + n) % n;
  await nextTick();
  list.value?.querySelector("[aria-selected=true]")?.scrollIntoView({ block: "nearest" });
}
function take(x: Findable | undefined) {
  if (!x) return;
  open.value = false;
  emit("go", x);
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    dismissable-mask
    position="top"
    :show-header="false"
    :style="{ width: 'min(620px, 96vw)' }"
    :pt="{ content: { style: 'padding: 12px' } }"
    :aria-label="s.shell.find"
  >
    <InputText
      v-model="typed"
      autofocus
      class="typed"
      role="combobox"
      aria-expanded="true"
      aria-controls="found"
      :aria-activedescendant="lines[at] ? `found-${at}` : undefined"
      :placeholder="s.shell.findHelp"
      :aria-label="s.shell.findHelp"
      autocomplete="off"
      data-test="palette"
      @keydown.down.prevent="step(1)"
      @keydown.up.prevent="step(-1)"
      @keydown.enter.prevent="take(lines[at])"
    />
    <p class="visually-hidden" role="status">{{ s.shell.found(lines.length) }}</p>
    <ul id="found" ref="list" role="listbox" :aria-label="s.shell.find">
      <li
        v-for="(x, i) in lines"
        :id="`found-${i}`"
        :key="key(x)"
        role="option"
        :aria-selected="i === at"
        :data-found="key(x)"
        @mousemove="at = i"
        @click="take(x)"
      >
        <span class="kind">{{ s.shell.kinds[x.kind] }}</span>
        <span class="label">{{ x.label }}</span>
        <span class="more">{{ x.more }}</span>
      </li>
    </ul>
    <p v-if="lines.length === 0" class="quiet nothing">{{ s.shell.nothing }}</p>
  </Dialog>
</template>

<style scoped>
.typed {
  width: 100%;
}
ul {
  margin: 8px 0 0;
  padding: 0;
  max-height: min(56dvh, 480px);
  overflow-y: auto;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 64px minmax(0, 1fr) max-content;
  gap: 10px;
  align-items: baseline;
  min-height: 36px;
  padding: 6px 8px;
  cursor: pointer;
}
li[aria-selected="true"] {
  background: var(--glue-soft);
  outline: 2px solid var(--focus);
  outline-offset: -2px;
}
.kind,
.more {
  font-size: 0.82rem;
  color: var(--ink-soft);
}
.label {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.more {
  max-width: 180px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.nothing {
  padding: 8px;
}
@media (max-width: 760px) {
  li {
    min-height: 44px;
  }
}
</style>
