<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import SelectButton from "primevue/selectbutton";
import { onBeforeUnmount, ref, shallowRef, watch } from "vue";
import { useRoute } from "vue-router";
import { api, sentence, type By, type Progress, type Truck } from "../api/client";
import { failure, newest } from "../lib/requests";
import DayList from "../components/DayList.vue";
import KitList from "../components/KitList.vue";
import MixForms from "../components/MixForms.vue";
import OrderList from "../components/OrderList.vue";
import PageBar from "../components/PageBar.vue";
import PairsList from "../components/PairsList.vue";
import ProfileTable from "../components/ProfileTable.vue";
import StaleDialog from "../components/StaleDialog.vue";
import SumTable from "../components/SumTable.vue";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
const route = useRoute();
const truck = shallowRef<Truck | null>(null);
const problem = ref<string | null>(null);
const progress = shallowRef<Progress | null>(null);
const tabs = Object.entries(s.truck.tabs).map(([value, label]) => ({ value: value as Tab, label }));
type Tab = keyof typeof s.truck.tabs;
const tab = ref<Tab>("order");
const by = ref<By>("opening");

let under: EventSource | null = null;
/** Hangs up: the server stops nesting. */
function hangUp() {
  under?.close();
  under = null;
  progress.value = null;
}
function load() {
  const now = job.state;
  if (!now) return;
  hangUp();
  const told = new EventSource(`/api/jobs/${now.id}/truck-progress?by=${by.value}`);
  under = told;
  const heard = (e: Event) => JSON.parse((e as MessageEvent<string>).data) as unknown;
  told.addEventListener("progress", (e) => (progress.value = heard(e) as Progress));
  told.addEventListener("truck", (e) => {
    [truck.value, problem.value] = [heard(e) as Truck, null];
    hangUp();
  });
  told.addEventListener("problem", (e) => {
    problem.value = sentence(heard(e), s.errors.offline);
    hangUp();
  });
  told.onerror = () => {
    problem.value = s.errors.offline;
    hangUp();
  };
}
/** Stops nesting, and takes what is known. */
async function stop() {
  const now = job.state;
  if (!now) return;
  hangUp();
  try {
    const query = { by: by.value, limit_s: 0 };
    const params = { path: { id: now.id }, query };
    const data = await newest("truck", (signal) => api.GET("/api/jobs/{id}/truck", { params, signal }));
    if (data && now.id === job.state?.id) [truck.value, problem.value] = [data, null];
  } catch (e) {
    problem.value = failure(e);
  }
}
watch(
  () => Number(route.params.id),
  async (id) => {
    if (route.name !== "truck") return;
    if (job.state?.id !== id) await job.open(id);
  },
  { immediate: true },
);
// Whatever changes the job changes the truck.
watch(() => [job.state?.id, job.state?.revision, by.value], load, { immediate: true });
onBeforeUnmount(hangUp);
</script>

<template>
  <div>
    <PageBar :title="s.truck.title" :job="job.state?.job.name">
      <a :href="`/api/jobs/${route.params.id}/truck/order.csv`">{{ s.truck.csv }}</a>
      <a :href="`/api/jobs/${route.params.id}/truck/order.xlsx`">{{ s.truck.xlsx }}</a>
    </PageBar>
    <Message v-if="job.error || problem" severity="error">{{ job.error ?? problem }}</Message>
    <main class="page">
      <SelectButton
        v-model="tab"
        class="tabs"
        :options="tabs"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        :aria-label="s.truck.title"
        data-test="truck-tabs"
      />
      <p v-if="progress" class="progress" role="status" data-test="progress">
        {{ s.truck.nesting(progress.product, progress.done, progress.of) }}
        <Button size="small" text :label="s.truck.stop" data-test="stop-nesting" @click="stop" />
      </p>
      <MixForms v-if="tab === 'mix'" />
      <ProfileTable v-else-if="tab === 'figures'" />
      <p v-else-if="!truck" aria-busy="true">{{ s.wall.loading }}</p>
      <OrderList v-else-if="tab === 'order'" :truck="truck" />
      <SumTable v-else-if="tab === 'sums'" v-model:by="by" :truck="truck" />
      <DayList v-else-if="tab === 'days'" :truck="truck" />
      <PairsList v-else-if="tab === 'pairs'" :pairs="truck.pairs" />
      <KitList v-else :truck="truck" />
    </main>
    <StaleDialog />
  </div>
</template>

<style scoped>
.tabs {
  flex-wrap: wrap;
  margin-bottom: 10px;
}
.progress {
  margin-top: 8px;
}
</style>
