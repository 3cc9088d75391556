<script setup lang="ts">
import { ref, watch } from "vue";
import { keepPhoto, keptPhoto, smaller } from "../lib/photo";
import { s } from "../strings";

/** Photographs of what is being written down: taken or chosen, made smaller here, kept on the device until they are on record. */
const photos = defineModel<string[]>({ required: true });
defineProps<{ wanted?: boolean }>();
const input = ref<HTMLInputElement | null>(null);
const wrong = ref("");
const shown = ref(new Map<string, string>());
const MOST = 12;
/** The largest file that is opened at all, bytes. */
const LARGEST = 60 * 1024 * 1024;
async function take() {
  wrong.value = "";
  for (const file of [...(input.value?.files ?? [])].slice(0, MOST - photos.value.length)) {
    const small = file.size > LARGEST ? null : await smaller(file);
    if (!small) {
      wrong.value = file.size > LARGEST ? s.photo.large(Math.round(file.size / 1024 / 1024)) : s.photo.none(file.name);
      continue;
    }
    try {
      const hash = await keepPhoto(small);
      if (!photos.value.includes(hash)) photos.value = [...photos.value, hash];
    } catch {
      wrong.value = s.site.full;
    }
  }
  // The same one can be taken again.
  if (input.value) input.value.value = "";
}
watch(
  photos,
  async (now) => {
    for (const hash of now) {
      if (shown.value.has(hash)) continue;
      const bytes = await keptPhoto(hash);
      if (bytes) shown.value = new Map(shown.value).set(hash, dataUrl(bytes));
    }
  },
  { immediate: true },
);
function dataUrl(bytes: Uint8Array): string {
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return `data:image/jpeg;base64,${btoa(text)}`;
}
</script>

<template>
  <div class="photos">
    <button type="button" data-test="photo" :disabled="photos.length >= MOST" @click="input?.click()">
      {{ photos.length ? s.photo.more : s.photo.take }}<template v-if="wanted && !photos.length"> *</template>
    </button>
    <input
      ref="input"
      type="file"
      accept="image/*"
      capture="environment"
      multiple
      class="visually-hidden"
      tabindex="-1"
      :aria-label="s.photo.take"
      data-test="photo-file"
      @change="take"
    />
    <span v-for="(hash, i) in photos" :key="hash" class="one">
      <img v-if="shown.get(hash)" :src="shown.get(hash)" :alt="s.photo.nth(i + 1)" />
      <button
        type="button"
        class="plain"
        :aria-label="s.photo.drop(i + 1)"
        @click="photos = photos.filter((h) => h !== hash)"
      >
        ✕
      </button>
    </span>
    <small v-if="wanted && !photos.length">{{ s.photo.wanted }}</small>
    <p v-if="wrong" class="bad" role="alert">{{ wrong }}</p>
  </div>
</template>

<style scoped>
.photos {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.one {
  position: relative;
}
.one img {
  display: block;
  width: 92px;
  height: 70px;
  object-fit: cover;
  border: 1.5px solid var(--ink);
}
.one .plain {
  position: absolute;
  top: -8px;
  right: -8px;
  min-width: 44px !important;
  min-height: 44px !important;
}
</style>
