<script setup lang="ts">
import { computed } from "vue";
import type { Finding } from "../api/client";
import { stateOf } from "../lib/verdict";
import VerdictMark from "./VerdictMark.vue";

/** The worst that is found somewhere, as the mark of what is said there. */
const props = defineProps<{ worst: Finding["severity"] | null }>();
const state = computed(() => stateOf(props.worst));
</script>

<template>
  <VerdictMark :state="state" />
</template>
