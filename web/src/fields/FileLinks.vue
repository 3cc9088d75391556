<script setup lang="ts">
import { useRoute } from "vue-router";
import { s } from "../strings";
import FilePick from "./FilePick.vue";

/** A file out in several formats, and one in again. */
const props = defineProps<{ of: string; endings: string[]; help?: string; query?: string }>();
const emit = defineEmits<{ taken: [file: File] }>();
const route = useRoute();
const href = (ending: string) => `/api/jobs/${route.params.id}/truck/${props.of}.${ending}${props.query ?? ""}`;
</script>

<template>
  <p class="files no-print">
    <a v-for="e in endings" :key="e" :href="href(e)" :data-file="`${of}.${e}`">{{ e.toUpperCase() }}</a>
    <FilePick
      v-if="help"
      :label="s.truck.takeFile"
      accept=".csv,.xlsx,.ods,.json,text/csv,application/json"
      :test="`${of}-file`"
      @chosen="(file) => emit('taken', file)"
    />
    <span v-if="help" class="quiet">{{ help }}</span>
  </p>
</template>

<style scoped>
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
}
a {
  padding: 8px 0;
}
</style>
