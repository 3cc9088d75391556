<script setup lang="ts">
import { useDark } from "@vueuse/core";
import { provide } from "vue";
import { darkKey } from "./lib/theme-key";

// A style to switch transitions off would bear no number of the page.
const how = { selector: "html", attribute: "class", valueDark: "kame-dark", valueLight: "", disableTransition: false };
provide(darkKey, useDark(how));
</script>

<template>
  <RouterView />
</template>
