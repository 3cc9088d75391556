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
const at = computed(() => (job.done === null ? "" : `?done=${job.done}`));
const section = computed(() => `?section=${job.section ?? "sill"}&opening=${job.opening}`);
const groups = computed(() => [
  {
    title: s.files.job,
    files: [
      { label: s.wall.exportJob, path: "file", test: "job-file" },
      { label: s.wall.exportLayup, path: `layup${at.value}`, test: "layup" },
    ],
  },
  {
    title: s.files.drawings,
    files: [
      ...["svg", "pdf", "dxf"].map((f) => ({
        label: `${s.wall.exportElevation} ${f.toUpperCase()}`,
        path: `drawings/elevation.${f}${at.value}`,
        test: `elevation-${f}`,
      })),
      ...["pdf", "dxf"].map((f) => ({
        label: `${s.wall.exportSection} ${f.toUpperCase()}`,
        path: `drawings/section.${f}${section.value}`,
        test: `section-${f}`,
      })),
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
</style>
