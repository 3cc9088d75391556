<script setup lang="ts">
import { ref } from "vue";
import { s } from "../strings";
import PhotoPick from "./PhotoPick.vue";

/** A few words of whoever is at the wall, with photographs. */
defineProps<{ ask: string; tonight: string[] }>();
const emit = defineEmits<{ keep: [note: string, photos: string[]]; close: [] }>();
const note = ref("");
const photos = ref<string[]>([]);
</script>

<template>
  <section class="site-sheet" role="dialog" :aria-label="ask" data-test="say">
    <template v-if="tonight.length">
      <h2>{{ s.site.tonight }}</h2>
      <p v-for="(t, i) in tonight" :key="i" class="put">{{ t }}</p>
    </template>
    <label>
      {{ ask }}
      <textarea v-model="note" rows="4" maxlength="1000" data-test="note"></textarea>
    </label>
    <PhotoPick v-model="photos" />
    <div class="two">
      <button @click="emit('close')">{{ s.site.cancel }}</button>
      <button
        class="keep"
        :disabled="note.trim() === ''"
        data-test="say-keep"
        @click="emit('keep', note.trim(), photos)"
      >
        {{ s.site.keep }}
      </button>
    </div>
  </section>
</template>
