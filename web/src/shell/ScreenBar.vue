<script setup lang="ts">
/** The line under the frame: what this screen is, and what it can do. */
defineProps<{ title: string }>();
</script>

<template>
  <div class="bar">
    <h2>{{ title }}</h2>
    <div class="acts no-print"><slot /></div>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  min-height: 44px;
  padding: 2px 16px;
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
h2 {
  flex: 1;
  font-size: 1.05rem;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
}
.acts :deep(a) {
  padding: 8px;
}
</style>
