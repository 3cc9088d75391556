<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import SelectButton from "primevue/selectbutton";
import { computed, onBeforeUnmount, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, sentence, type By, type Progress, type Truck } from "../api/client";
import { failure, newest } from "../lib/requests";
import CalendarBoard from "../truck/CalendarBoard.vue";
import DayList from "../truck/DayList.vue";
import KitList from "../truck/KitList.vue";
import MixForms from "../truck/MixForms.vue";
import OrderList from "../truck/OrderList.vue";
import ScreenBar from "../shell/ScreenBar.vue";
import PairsList from "../truck/PairsList.vue";
import ProfileTable from "../truck/ProfileTable.vue";
import SumTable from "../truck/SumTable.vue";
import { roomOf, shelves, type Shelf } from "../shell/rooms";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
const route = useRoute();
const router = useRouter();
const truck = shallowRef<Truck | null>(null);
const problem = ref<string | null>(null);
const progress = shallowRef<Progress | null>(null);
/** What stands in the address; beside it what belongs to the same room. */
const room = computed(() => {
  const here = roomOf(route.name, route.params.tab);
  return here === "days" || here === "kit" ? here : "truck";
});
const tabs = computed(() => shelves[room.value].map((value) => ({ value, label: s.truck.tabs[value] })));
const tab = computed<Shelf>({
  get: () => shelves[room.value].find((x) => x === route.params.tab) ?? shelves[room.value][0],
  set: (to) => void router.push({ params: { ...route.params, tab: to === "order" ? "" : to } }),
});
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
// Whatever changes the job changes the truck.
watch(() => [job.state?.id, job.state?.revision, by.value], load, { immediate: true });
onBeforeUnmount(hangUp);
</script>

<template>
  <div>
    <ScreenBar :title="s.shell[room]">
      <template v-if="room === 'truck'">
        <a :href="`/api/jobs/${route.params.id}/truck/order.csv`">{{ s.truck.csv }}</a>
        <a :href="`/api/jobs/${route.params.id}/truck/order.xlsx`">{{ s.truck.xlsx }}</a>
      </template>
    </ScreenBar>
    <Message v-if="problem" severity="error">{{ problem }}</Message>
    <main class="page">
      <SelectButton
        v-if="tabs.length > 1"
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
      <template v-else-if="tab === 'days'">
        <CalendarBoard />
        <DayList :truck="truck" />
      </template>
      <PairsList v-else-if="tab === 'pairs'" :pairs="truck.pairs" />
      <KitList v-else :truck="truck" />
    </main>
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
