<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import { useJob } from "../stores/job";
import { s } from "../strings";

const job = useJob();
function again() {
  const mine = job.stale?.edit;
  const what = job.stale?.what ?? "";
  job.stale = null;
  if (mine) void job.change(mine, what);
}
</script>

<template>
  <Dialog
    :visible="job.stale !== null"
    modal
    :closable="false"
    :header="s.stale.title"
    :style="{ width: 'min(480px, 94vw)' }"
  >
    <div data-test="stale">
      <p>{{ s.stale.text }}</p>
      <p v-if="job.stale?.what" class="mine">
        {{ s.stale.mine }}: <b>{{ job.stale.what }}</b>
      </p>
    </div>
    <template #footer>
      <Button severity="secondary" :label="s.stale.drop" data-test="stale-drop" @click="job.stale = null" />
      <Button v-if="job.stale?.edit" :label="s.stale.again" data-test="stale-again" @click="again" />
    </template>
  </Dialog>
</template>

<style scoped>
.mine {
  margin-top: 10px;
}
</style>
