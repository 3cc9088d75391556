<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Menu from "primevue/menu";
import Select from "primevue/select";
import { computed, ref, shallowRef } from "vue";
import { useRouter } from "vue-router";
import { api, type Edit, type FeatureKind, type Figure } from "../api/client";
import { twoSizes } from "../lib/drag";
import type { Limited } from "../lib/limits";
import { typedNumber, wrongNumber } from "../lib/numbers";
import { useJob } from "../stores/job";
import { s } from "../strings";
import SizeField from "../fields/SizeField.vue";
import WallsPanel from "./WallsPanel.vue";

const job = useJob();
const router = useRouter();
const spec = computed(() => job.state?.job.openings?.[job.opening] ?? null);
const drawn = computed(() => job.shown?.elevation.openings[job.opening] ?? null);
const plain = (text: string) => text.replace(/ in$/, "");
/** While it is dragged the size under the pointer, else the exact one. */
const size = (field: "left" | "sill" | "width" | "height" | "depth") =>
  plain((job.dragging ? drawn.value?.[field] : spec.value?.[field]) ?? "");
const common = computed(() => job.view?.figures.filter((f) => f.common) ?? []);
/** What a feature of this kind may measure. */
const ranges: Record<string, { width: Limited; height: Limited }> = {
  opening: { width: "opening_width", height: "opening_height" },
  penetration: { width: "penetration_size", height: "penetration_size" },
  line: { width: "line_length", height: "line_height" },
};
const limits = computed(() => ranges[drawn.value?.feature ?? ""] ?? { width: undefined, height: undefined });
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
const kinds = shallowRef<FeatureKind[]>([]);
const menu = ref<InstanceType<typeof Menu> | null>(null);
const items = computed(() =>
  kinds.value.map((k) => ({
    label: k.name,
    command: async () => {
      const before = job.state?.job.openings?.length ?? 0;
      if (await job.change({ edit: "add_feature", kind: k.id }, k.name)) job.opening = before;
    },
  })),
);
async function add(e: Event) {
  menu.value?.toggle(e);
  if (!kinds.value.length) {
    const { data } = await api.GET("/api/features").catch(() => ({ data: undefined }));
    kinds.value = data ?? [];
  }
}
const firstCourse = computed(() => {
  const e = job.shown?.elevation;
  const own = job.state?.job.wall.first_course;
  return own && !job.dragging ? plain(own) : e ? `${e.height - (e.courses[e.courses.length - 1] ?? 0)}` : "";
});
/** Other things that come through the barrier, for one flashing over both. */
const others = computed(() =>
  (job.view?.elevation.openings ?? [])
    .filter((o) => o.feature === "penetration" && o.id !== spec.value?.id)
    .map((o) => ({ value: o.id, label: `${o.id} · ${o.name}` })),
);
const with_ = ref<string | null>(null);
const together = ref({ left: "", sill: "" });
async function flashTogether() {
  if (!spec.value || !with_.value) return;
  const { left, sill } = together.value;
  const edit: Edit = {
    edit: "flash_together",
    id: spec.value.id,
    with: with_.value,
    left: left || null,
    sill: sill || null,
  };
  if (await job.change(edit, s.sizes.together)) [with_.value, together.value] = [null, { left: "", sill: "" }];
}
const times = ref("1");
const step = ref("");
const copyWrong = ref("");
async function copy() {
  if (!spec.value) return;
  copyWrong.value = wrongNumber(s.sizes.times, times.value, "copies", false) ?? "";
  if (copyWrong.value) return;
  await job.change(
    { edit: "copy_opening", id: spec.value.id, times: typedNumber(times.value) ?? 0, step: step.value || "0" },
    s.sizes.copy,
  );
}
</script>

<template>
  <section class="sizes" :aria-label="s.sizes.title">
    <fieldset class="plain" :disabled="!job.mayChange">
      <form v-if="spec && job.mayChange" class="quick" @submit.prevent="setQuick">
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
        <h3>{{ spec.id }} · {{ spec.name }}</h3>
        <SizeField :label="s.sizes.name" :value="spec.name" of="name" @set="(t) => setOpening('name', t)" />
        <SizeField
          :label="s.sizes.width"
          :value="size('width')"
          test="width"
          :of="limits.width"
          @set="(t) => setOpening('width', t)"
        />
        <SizeField
          :label="s.sizes.height"
          :value="size('height')"
          test="height"
          :of="limits.height"
          @set="(t) => setOpening('height', t)"
        />
        <SizeField :label="s.sizes.left" :value="size('left')" test="left" @set="(t) => setOpening('left', t)" />
        <SizeField :label="s.sizes.sill" :value="size('sill')" test="sill" @set="(t) => setOpening('sill', t)" />
        <template v-if="drawn.feature === 'opening'">
          <SizeField
            :label="s.sizes.depth"
            :value="size('depth')"
            of="opening_depth"
            @set="(t) => setOpening('depth', t)"
          />
          <SizeField
            :label="s.sizes.flange"
            :value="plain(spec.flange)"
            of="flange"
            @set="(t) => setOpening('flange', t)"
          />
        </template>
        <form v-if="job.mayChange" class="row copy" data-test="copy" @submit.prevent="copy">
          <Button type="submit" size="small" severity="secondary" :label="s.sizes.copy" />
          <InputText v-model="times" size="small" :aria-label="s.sizes.times" @keydown.stop />
          <span>{{ s.sizes.times }},</span>
          <InputText v-model="step" size="small" placeholder="48" :aria-label="s.sizes.apart" @keydown.stop />
          <span>{{ s.sizes.apart }}</span>
          <p v-if="copyWrong" class="bad" role="alert">{{ copyWrong }}</p>
        </form>
      </template>
      <form
        v-if="job.mayChange && drawn?.feature === 'penetration' && others.length"
        class="row copy"
        data-test="together"
        @submit.prevent="flashTogether"
      >
        <Select
          v-model="with_"
          input-id="with"
          size="small"
          :options="others"
          option-label="label"
          option-value="value"
          :placeholder="s.sizes.together"
          :aria-label="s.sizes.together"
        />
        <InputText
          v-model="together.left"
          size="small"
          :placeholder="s.sizes.left"
          :aria-label="s.sizes.left"
          @keydown.stop
        />
        <InputText
          v-model="together.sill"
          size="small"
          :placeholder="s.sizes.sill"
          :aria-label="s.sizes.sill"
          @keydown.stop
        />
        <Button type="submit" size="small" severity="secondary" :label="s.sizes.togetherDo" :disabled="!with_" />
      </form>
      <p v-if="job.mayChange" class="row">
        <Button size="small" :label="s.sizes.add" aria-haspopup="true" data-test="add" @click="add" />
        <Menu ref="menu" :model="items" popup />
        <Button
          size="small"
          severity="secondary"
          :label="s.sizes.schedule"
          data-test="to-schedule"
          @click="router.push({ name: 'schedule', params: { id: String(job.state?.id) } })"
        />
        <Button
          v-if="spec"
          size="small"
          severity="secondary"
          text
          :label="s.sizes.remove"
          @click="job.change({ edit: 'remove_opening', id: spec.id }, s.sizes.remove)"
        />
      </p>
      <WallsPanel />
      <template v-if="job.view?.elevation.courses.length">
        <SizeField
          :label="s.sizes.firstCourse"
          :value="firstCourse"
          test="first-course"
          @set="(t) => job.change({ edit: 'set_first_course', height: t }, s.sizes.firstCourse)"
        />
        <Button
          v-if="job.mayChange && job.state?.job.wall.first_course"
          size="small"
          text
          :label="s.sizes.bestCourse"
          data-test="best-course"
          @click="job.change({ edit: 'set_first_course', height: null }, s.sizes.bestCourse)"
        />
      </template>
      <p class="quiet" data-test="courses-why">{{ s.sizes.courses }}: {{ job.shown?.courses_why }}</p>
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
          <b v-if="f.asked_by" data-test="asked-by">{{ s.sizes.askedBy(f.asked_by) }}</b>
          <button v-if="f.own && job.mayChange" @click="setFigure(f, null)">{{ s.sizes.reset }}: {{ f.value }}</button>
        </p>
      </SizeField>
      <p class="quiet">{{ s.sizes.help }}</p>
      <p class="quiet">{{ s.sizes.authority }}</p>
    </fieldset>
  </section>
</template>

<style scoped>
.sizes {
  padding: 12px 16px 24px;
}
.plain {
  min-width: 0;
  margin: 0;
  padding: 0;
  border: 0;
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
.row {
  flex-wrap: wrap;
}
.row :deep(input) {
  flex: 1;
  min-width: 0;
}
.copy {
  align-items: center;
  font-size: 0.85rem;
}
.copy :deep(input) {
  flex: 0 1 56px;
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
