<script setup lang="ts">
import { computed } from "vue";
import { useRoute } from "vue-router";
import HistoryList from "../shell/HistoryList.vue";
import ShareList from "../shell/ShareList.vue";
import ScreenBar from "../shell/ScreenBar.vue";
import { useJob } from "../stores/job";
import { useMe } from "../stores/me";
import { s } from "../strings";

/** Everything that leaves a job as a file, and what comes in. */
const job = useJob();
const me = useMe();
const route = useRoute();
const query = (more: Record<string, string | number | null>) => {
  const all = Object.entries({ done: job.done, ...more }).flatMap(([k, v]) => (v === null ? [] : [`${k}=${v}`]));
  return all.length ? `?${all.join("&")}` : "";
};
const at = computed(() => query({}));
const place = computed(() => job.state?.job.openings?.[job.opening]?.id ?? "");
const isBuilding = computed(() => (job.state?.job.wall.corners?.length ?? 0) > 0);
/** What is drawn, each to be had as a file of three kinds. */
const drawings = computed(() => {
  const here = query({ opening: job.opening });
  const section = query({ section: job.section ?? "sill", opening: job.opening });
  return [
    { name: "elevation", label: s.files.elevation, query: at.value },
    ...(isBuilding.value
      ? [
          { name: "building", label: s.files.building, query: at.value },
          { name: "folded", label: s.files.folded, query: at.value },
        ]
      : []),
    ...(place.value
      ? [
          { name: "section", label: s.files.section(place.value), query: section },
          { name: "apart", label: s.files.apart(place.value), query: here },
          { name: "steps", label: s.files.steps(place.value), query: here },
        ]
      : []),
  ];
});
const KINDS = ["svg", "pdf", "dxf"] as const;
const groups = computed(() => [
  {
    title: s.files.job,
    files: [
      { label: s.wall.exportJob, path: "file", test: "job-file" },
      { label: s.wall.exportLayup, path: `layup${at.value}`, test: "layup" },
    ],
  },
  {
    title: s.files.tables,
    files: [
      { label: s.wall.exportCsv, path: "cut-list.csv", test: "cut-csv" },
      { label: s.cut.labels, path: "truck/labels.pdf", test: "labels-pdf" },
      { label: s.truck.csv, path: "truck/order.csv", test: "order-csv" },
      { label: s.truck.xlsx, path: "truck/order.xlsx", test: "order-xlsx" },
    ],
  },
]);
</script>

<template>
  <div>
    <ScreenBar :title="s.shell.files" />
    <main class="page" data-test="files-list">
      <section v-for="g in groups" :key="g.title">
        <h3>{{ g.title }}</h3>
        <ul>
          <li v-for="f in g.files" :key="f.path">
            <a :href="`/api/jobs/${route.params.id}/${f.path}`" download :data-test="f.test">{{ f.label }}</a>
          </li>
        </ul>
      </section>
      <section>
        <h3>{{ s.files.drawings }}</h3>
        <ul>
          <li v-for="d in drawings" :key="d.name" class="drawing">
            <span>{{ d.label }}</span>
            <a
              v-for="kind in KINDS"
              :key="kind"
              :href="`/api/jobs/${route.params.id}/drawings/${d.name}.${kind}${d.query}`"
              :aria-label="`${d.label} ${kind.toUpperCase()}`"
              :data-test="`${d.name}-${kind}`"
              download
              >{{ kind.toUpperCase() }}</a
            >
          </li>
        </ul>
      </section>
      <section v-if="job.state && me.me?.signs_in && me.may('builder', job.state.id)">
        <h3>{{ s.people.links }}</h3>
        <ShareList :id="job.state.id" />
      </section>
      <section v-if="job.state && !me.me?.share">
        <h3>{{ s.history.title }}</h3>
        <HistoryList :id="job.state.id" :revision="job.state.revision" @taken="job.refresh()" />
      </section>
      <section>
        <h3>{{ s.files.incoming }}</h3>
        <ul>
          <li>
            <RouterLink
              :to="{ name: 'newer-model', params: { id: String(route.params.id) } }"
              data-test="to-newer-model"
              >{{ s.newerModel.title }}</RouterLink
            >
          </li>
          <li>
            <RouterLink :to="{ name: 'schedule', params: { id: String(route.params.id) } }">{{
              s.schedule.title
            }}</RouterLink>
          </li>
          <li>
            <RouterLink :to="{ name: 'truck', params: { id: String(route.params.id), tab: 'kit' } }">{{
              s.files.kit
            }}</RouterLink>
          </li>
          <li>
            <RouterLink :to="{ name: 'truck', params: { id: String(route.params.id), tab: 'figures' } }">{{
              s.files.profile
            }}</RouterLink>
          </li>
        </ul>
      </section>
    </main>
  </div>
</template>

<style scoped>
section {
  margin-bottom: 20px;
}
h3 {
  padding-bottom: 4px;
  font-size: 1rem;
  border-bottom: 1.5px solid var(--ink);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li a {
  display: inline-block;
  padding: 10px 0;
}
.drawing {
  display: flex;
  gap: 18px;
  align-items: center;
}
.drawing span {
  flex: 0 1 260px;
}
</style>
