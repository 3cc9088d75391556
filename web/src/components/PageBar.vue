<script setup lang="ts">
import Button from "primevue/button";
import { useRoute, useRouter } from "vue-router";
import { s } from "../strings";
import KameMark from "./KameMark.vue";

defineProps<{ title: string; job: string | undefined }>();
const route = useRoute();
const router = useRouter();
const back = () => router.push({ name: "wall", params: { id: String(route.params.id) } });
</script>

<template>
  <header class="bar">
    <RouterLink to="/" :aria-label="s.wall.back"><KameMark /></RouterLink>
    <h1>
      {{ title }}<span v-if="job"> · {{ job }}</span>
    </h1>
    <nav class="no-print">
      <Button text :label="s.wall.tabs.wall" data-test="to-wall" @click="back" />
      <slot />
    </nav>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  padding: 6px 12px;
  color: var(--shell-ink);
  background: var(--shell);
}
h1 {
  flex: 1;
  font-size: 1rem;
}
nav {
  display: flex;
  align-items: center;
}
nav :deep(.p-button-text),
nav :deep(a) {
  padding: 8px;
  color: inherit;
  text-decoration: none;
}
@media print {
  .bar {
    color: #000;
    background: none;
  }
}
</style>
