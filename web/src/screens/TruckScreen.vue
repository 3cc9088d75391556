<script setup lang="ts">
import Message from "primevue/message";
import SelectButton from "primevue/selectbutton";
import { ref, shallowRef, watch } from "vue";
import { useRoute } from "vue-router";
import { api, sentence, type Truck } from "../api/client";
import MixForms from "../components/MixForms.vue";
import OrderList from "../components/OrderList.vue";
import PageBar from "../components/PageBar.vue";
import PairsList from "../components/PairsList.vue";
import StaleDialog from "../components/StaleDialog.vue";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
const route = useRoute();
const truck = shallowRef<Truck | null>(null);
const problem = ref<string | null>(null);
const tabs = Object.entries(s.truck.tabs).map(([value, label]) => ({ value: value as Tab, label }));
type Tab = keyof typeof s.truck.tabs;
const tab = ref<Tab>("order");

async function load() {
  const now = job.state;
  if (!now) return;
  try {
    const { data, error } = await api.GET("/api/jobs/{id}/truck", { params: { path: { id: now.id } } });
    if (data) [truck.value, problem.value] = [data, null];
    else problem.value = sentence(error, s.errors.offline);
  } catch {
    problem.value = s.errors.offline;
  }
}
watch(
  () => Number(route.params.id),
  async (id) => {
    if (route.name !== "truck") return;
    if (job.state?.id !== id) await job.open(id);
    await load();
  },
  { immediate: true },
);
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
        :options="tabs"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        :aria-label="s.truck.title"
        data-test="truck-tabs"
      />
      <MixForms v-if="tab === 'mix'" />
      <p v-else-if="!truck" aria-busy="true">{{ s.wall.loading }}</p>
      <OrderList v-else-if="tab === 'order'" :truck="truck" @changed="load" />
      <PairsList v-else :pairs="truck.pairs" @changed="load" />
    </main>
    <StaleDialog />
  </div>
</template>
