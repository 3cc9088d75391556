<script setup lang="ts">
import { onMounted, ref } from "vue";
import { api, sentence, type Check, type Instrument } from "../api/client";
import { s } from "../strings";

/** Instruments that are there and read what is asked. Readings can always be typed instead: without any this shows nothing. */
const props = defineProps<{ quantity: Check["quantity"] }>();
const emit = defineEmits<{ read: [value: string, instrument: string] }>();
const there = ref<Instrument[]>([]);
const wrong = ref("");
const asking = ref("");
onMounted(async () => {
  const { data } = await api.GET("/api/instruments", {}).catch(() => ({ data: undefined }));
  there.value = (data ?? []).filter((x) => x.reads.includes(props.quantity));
});
async function read(x: Instrument) {
  wrong.value = "";
  asking.value = x.serial;
  const params = { path: { serial: x.serial }, query: { quantity: props.quantity } };
  try {
    const { data, error } = await api.POST("/api/instruments/{serial}/reading", { params });
    if (!data) wrong.value = sentence(error, s.site.noAnswer(x.name));
    else if (data.doubt) wrong.value = data.doubt;
    if (data && !data.refused) emit("read", data.value, `${x.name} ${x.serial}`);
  } catch {
    wrong.value = s.site.noAnswer(x.name);
  }
  asking.value = "";
}
</script>

<template>
  <div v-if="there.length" class="instruments">
    <button
      v-for="x in there"
      :key="x.serial"
      type="button"
      :disabled="asking !== ''"
      :data-instrument="x.serial"
      @click="read(x)"
    >
      {{ asking === x.serial ? s.site.reads : s.site.readFrom(x.name) }}
    </button>
    <p v-if="wrong" class="bad" role="alert" data-test="instrument-wrong">{{ wrong }}</p>
  </div>
</template>

<style scoped>
.instruments {
  display: grid;
  gap: 6px;
}
</style>
