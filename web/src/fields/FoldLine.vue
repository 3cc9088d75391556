<script setup lang="ts">
/** A line of a list that opens to what is behind it. */
defineProps<{ open: boolean }>();
defineEmits<{ toggle: [] }>();
</script>

<template>
  <div class="line">
    <button class="head" type="button" :aria-expanded="open" @click="$emit('toggle')"><slot name="head" /></button>
    <div v-if="open" class="more"><slot /></div>
  </div>
</template>

<style scoped>
.line {
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.head {
  display: grid;
  grid-template-columns: var(--fold-columns, minmax(0, 1fr) minmax(0, 1.2fr));
  gap: 12px;
  align-items: center;
  width: 100%;
  min-height: 44px;
  padding: 8px 10px;
  font: inherit;
  color: inherit;
  text-align: left;
  cursor: pointer;
  background: none;
  border: 0;
}
.more {
  padding: 4px 10px 12px;
}
</style>
