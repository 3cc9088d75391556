<script setup lang="ts">
import { useDark } from "@vueuse/core";
import { provide } from "vue";
import { darkKey } from "./lib/theme-key";

provide(darkKey, useDark({ selector: "html", attribute: "class", valueDark: "kame-dark", valueLight: "" }));
</script>

<template>
  <RouterView />
</template>
