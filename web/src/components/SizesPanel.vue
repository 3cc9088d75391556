<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { computed, ref } from "vue";
import type { Edit, Figure } from "../api/client";
import { twoSizes } from "../lib/drag";
import { useJob } from "../stores/job";
import { s } from "../strings";
import SizeField from "./SizeField.vue";

const job = useJob();
const spec = computed(() => job.state?.job.openings?.[job.opening] ?? null);
const drawn = computed(() => job.shown?.elevation.openings[job.opening] ?? null);
const plain = (text: string) => text.replace(/ in$/, "");
/** While it is dragged the size under the pointer, else the exact one. */
const size = (field: "left" | "sill" | "width" | "height" | "depth") =>
  plain((job.dragging ? drawn.value?.[field] : spec.value?.[field]) ?? "");
const wall = computed(() => job.state?.job.wall ?? null);
const common = computed(() => job.view?.figures.filter((f) => f.common) ?? []);
const quick = ref("");
const quickBad = ref(false);

type Field = "left" | "sill" | "width" | "height" | "depth" | "flange" | "name";
function setOpening(field: Field, text: string) {
  if (spec.value)
    void job.change({ edit: "set_opening", id: spec.value.id, [field]: text } as Edit, `${s.sizes[field]} ${text}`);
}
async function setQuick() {
  const sizes = twoSizes(quick.value);
  quickBad.value = sizes === null;
  if (!sizes || !spec.value) return;
  const kept = await job.change(
    { edit: "set_opening", id: spec.value.id, width: sizes[0], height: sizes[1] },
    quick.value,
  );
  if (kept) quick.value = "";
}
function setFigure(f: Figure, text: string | null) {
  void job.change({ edit: "set_figure", id: f.id, value: text }, f.name);
}
function add() {
  const like = spec.value;
  const used = job.state?.job.openings?.map((o) => o.id) ?? [];
  const id = Array.from({ length: 201 }, (_, i) => `W${i + 1}`).find((n) => !used.includes(n)) ?? "W1";
  const opening = {
    ...(like ?? {
      left: "52",
      sill: "32",
      width: "36",
      height: "48",
      depth: "5 1/2",
      flange: "1 3/8",
    }),
    id,
    name: `Window ${id.slice(1)}`,
  };
  if (like) opening.left = "9";
  void job.change({ edit: "add_opening", opening } as Edit, s.sizes.add);
}
</script>

<template>
  <section class="sizes" :aria-label="s.sizes.title">
    <form v-if="spec" class="quick" @submit.prevent="setQuick">
      <label for="quick">{{ s.sizes.quick }}</label>
      <div class="row">
        <InputText
          id="quick"
          v-model="quick"
          size="small"
          :placeholder="s.sizes.quickHelp"
          :invalid="quickBad"
          data-test="quick"
          @keydown.stop
        />
        <Button type="submit" size="small" :label="s.sizes.set" />
      </div>
      <p v-if="quickBad" class="bad" role="alert">{{ s.sizes.quickHelp }}</p>
    </form>
    <template v-if="spec && drawn">
      <h3>{{ s.sizes.window }} {{ spec.id }}</h3>
      <SizeField :label="s.sizes.name" :value="spec.name" @set="(t) => setOpening('name', t)" />
      <SizeField :label="s.sizes.width" :value="size('width')" test="width" @set="(t) => setOpening('width', t)" />
      <SizeField :label="s.sizes.height" :value="size('height')" test="height" @set="(t) => setOpening('height', t)" />
      <SizeField :label="s.sizes.left" :value="size('left')" test="left" @set="(t) => setOpening('left', t)" />
      <SizeField :label="s.sizes.sill" :value="size('sill')" test="sill" @set="(t) => setOpening('sill', t)" />
      <SizeField :label="s.sizes.depth" :value="size('depth')" @set="(t) => setOpening('depth', t)" />
      <SizeField :label="s.sizes.flange" :value="plain(spec.flange)" @set="(t) => setOpening('flange', t)" />
    </template>
    <p class="row">
      <Button size="small" severity="secondary" :label="s.sizes.add" @click="add" />
      <Button
        v-if="spec"
        size="small"
        severity="secondary"
        text
        :label="s.sizes.remove"
        @click="job.change({ edit: 'remove_opening', id: spec.id }, s.sizes.remove)"
      />
    </p>
    <template v-if="wall">
      <h3>{{ s.sizes.wall }}</h3>
      <SizeField
        :label="s.sizes.width"
        :value="plain(wall.width)"
        test="wall-width"
        @set="(t) => job.change({ edit: 'set_wall', width: t }, s.sizes.wall)"
      />
      <SizeField
        :label="s.sizes.height"
        :value="plain(wall.height)"
        test="wall-height"
        @set="(t) => job.change({ edit: 'set_wall', height: t }, s.sizes.wall)"
      />
    </template>
    <p class="quiet">{{ s.sizes.courses }}: {{ job.view?.courses_why }}</p>
    <h3>{{ s.sizes.laps }}</h3>
    <SizeField
      v-for="f in common"
      :key="f.id"
      :label="f.name"
      :value="f.in_force"
      :test="`figure-${f.id}`"
      @set="(t) => setFigure(f, t)"
    >
      <p class="why quiet">
        {{ f.why }} <i>({{ s.sizes.source[f.source] }})</i>
        <button v-if="f.own" @click="setFigure(f, null)">{{ s.sizes.reset }}: {{ f.value }}</button>
      </p>
    </SizeField>
    <p class="quiet">{{ s.sizes.help }}</p>
    <p class="quiet">{{ s.sizes.authority }}</p>
  </section>
</template>

<style scoped>
.sizes {
  padding: 12px 16px 24px;
}
h3 {
  margin: 16px 0 4px;
  font-size: 1rem;
  border-bottom: 1.5px solid var(--ink);
}
.row {
  display: flex;
  gap: 6px;
  margin: 4px 0;
}
.row :deep(input) {
  flex: 1;
  min-width: 0;
}
.quick label {
  font-weight: 600;
}
.bad {
  color: var(--leak);
}
.why {
  grid-column: 1 / -1;
  font-size: 0.82rem;
  margin-bottom: 6px;
}
.why button {
  font: inherit;
  color: inherit;
  text-decoration: underline;
  background: none;
  border: 0;
  cursor: pointer;
}
.quiet {
  margin-top: 8px;
}
.why.quiet {
  margin-top: 0;
}
</style>
