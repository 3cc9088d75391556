<script setup lang="ts">
import Button from "primevue/button";
import { ref, shallowRef, watch } from "vue";
import { api, sentence, type History } from "../api/client";
import { s } from "../strings";

/** What a job was before: any of it can be taken again, also where the job does not read as it stands. */
const props = defineProps<{ id: number; revision?: number }>();
const emit = defineEmits<{ taken: [] }>();
const history = shallowRef<History | null>(null);
const wrong = ref("");
async function load() {
  const { data, error } = await api
    .GET("/api/jobs/{id}/history", { params: { path: { id: props.id } } })
    .catch(() => ({ data: undefined, error: undefined }));
  if (data) history.value = data;
  else wrong.value = sentence(error, s.errors.offline);
}
watch(() => [props.id, props.revision], load, { immediate: true });
async function goBack(position: number) {
  if (!history.value) return;
  const params = { path: { id: props.id }, header: { "If-Match": `"${history.value.revision}"` } };
  const { data, error } = await api
    .POST("/api/jobs/{id}/history", { params, body: { position } })
    .catch(() => ({ data: undefined, error: undefined }));
  wrong.value = data ? "" : sentence(error, s.errors.offline);
  if (data) emit("taken");
  await load();
}
</script>

<template>
  <div data-test="history">
    <p v-if="wrong" role="alert" class="wrong">{{ wrong }}</p>
    <ol v-if="history">
      <li v-for="p in history.past" :key="p.position" :data-position="p.position">
        <span>{{ p.label }}</span>
        <span v-if="p.damaged" class="quiet">{{ s.history.damaged }}</span>
        <b v-else-if="p.now">{{ s.history.now }}</b>
        <Button v-else size="small" text :label="s.history.take" data-test="go-back" @click="goBack(p.position)" />
      </li>
    </ol>
    <p v-if="history && history.dropped > 0" class="quiet">{{ s.history.dropped(history.dropped) }}</p>
  </div>
</template>

<style scoped>
ol {
  max-height: 340px;
  margin: 6px 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}
li {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 36px;
  padding: 2px 6px;
  border-bottom: 1px solid var(--line);
}
li span:first-child {
  flex: 1;
}
.wrong {
  padding: 8px 12px;
  background: var(--leak-soft);
  border-left: 4px solid var(--leak);
}
</style>
