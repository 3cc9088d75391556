<script setup lang="ts">
import { ref } from "vue";
import { useRoute } from "vue-router";
import { s } from "../strings";

/** A file out in several formats, and one in again. */
const props = defineProps<{ of: string; endings: string[]; help?: string; query?: string }>();
const emit = defineEmits<{ taken: [file: File] }>();
const route = useRoute();
const input = ref<HTMLInputElement | null>(null);
const href = (ending: string) => `/api/jobs/${route.params.id}/truck/${props.of}.${ending}${props.query ?? ""}`;
function take(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0];
  if (file) emit("taken", file);
  if (input.value) input.value.value = "";
}
</script>

<template>
  <p class="files no-print">
    <a v-for="e in endings" :key="e" :href="href(e)" :data-file="`${of}.${e}`">{{ e.toUpperCase() }}</a>
    <label v-if="help"
      >{{ s.truck.takeFile }}
      <input
        ref="input"
        type="file"
        accept=".csv,.xlsx,.ods,.json,text/csv,application/json"
        :data-test="`${of}-file`"
        @change="take"
      />
    </label>
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
