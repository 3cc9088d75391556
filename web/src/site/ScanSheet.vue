<script setup lang="ts">
import { useIntervalFn } from "@vueuse/core";
import { onMounted, onUnmounted, ref } from "vue";
import { useRouter } from "vue-router";
import { pathOf } from "../lib/label";
import { s } from "../strings";

/** The camera looks for the label beside an opening and goes where it leads. */
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const video = ref<HTMLVideoElement | null>(null);
const says = ref(s.scan.look);
const wrong = ref(false);
/** Looks so often, ms. */
const EVERY = 200;
/** A code is read at this width, pixels: more takes time and shows nothing. */
const WIDE = 640;
const canvas = document.createElement("canvas");
let stream: MediaStream | null = null;
let gone = false;

async function begin() {
  try {
    // Over plain HTTP from another machine a browser has no camera to give.
    const found = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } });
    if (gone) return found.getTracks().forEach((t) => t.stop());
    stream = found;
    if (video.value) {
      video.value.srcObject = found;
      await video.value.play();
    }
    resume();
  } catch {
    [says.value, wrong.value] = [s.scan.noCamera, true];
  }
}
async function look() {
  const seen = video.value;
  if (!seen?.videoWidth) return;
  const { default: read } = await import("jsqr");
  const scale = Math.min(1, WIDE / seen.videoWidth);
  canvas.width = Math.round(seen.videoWidth * scale);
  canvas.height = Math.round(seen.videoHeight * scale);
  const on = canvas.getContext("2d", { willReadFrequently: true });
  if (!on || gone) return;
  on.drawImage(seen, 0, 0, canvas.width, canvas.height);
  const { data, width, height } = on.getImageData(0, 0, canvas.width, canvas.height);
  const text = read(data, width, height)?.data;
  if (!text) return;
  const path = pathOf(text);
  const to = path === null ? null : router.resolve(path);
  // Whatever is no screen of a job leads back to the list of jobs: that is no label.
  if (!to?.params.id || to.name === undefined) {
    [says.value, wrong.value] = [s.scan.notOurs, true];
    return;
  }
  pause();
  navigator.vibrate?.(60);
  emit("close");
  await router.push(to);
}
let busy = false;
const { pause, resume } = useIntervalFn(
  () => {
    if (busy) return;
    busy = true;
    void look()
      .catch(() => ([says.value, wrong.value] = [s.scan.noReader, true]))
      .finally(() => (busy = false));
  },
  EVERY,
  { immediate: false },
);
onMounted(() => void begin());
onUnmounted(() => {
  gone = true;
  stream?.getTracks().forEach((t) => t.stop());
});
</script>

<template>
  <section class="site-sheet" role="dialog" :aria-label="s.scan.title" data-test="scan-sheet">
    <header>
      <h2>{{ s.scan.title }}</h2>
      <button class="plain" :aria-label="s.site.cancel" @click="emit('close')">✕</button>
    </header>
    <video ref="video" playsinline muted :aria-label="s.scan.picture"></video>
    <p :class="{ bad: wrong }" role="status" data-test="scan-says">{{ says }}</p>
  </section>
</template>

<style scoped>
video {
  width: 100%;
  max-height: 60vh;
  background: var(--ink);
  border: 1px solid var(--line);
  object-fit: cover;
}
</style>
