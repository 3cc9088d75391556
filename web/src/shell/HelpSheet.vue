<script setup lang="ts">
import Dialog from "primevue/dialog";
import Checkbox from "primevue/checkbox";
import { s } from "../strings";
import { letterKeys } from "./useShortcuts";

const open = defineModel<boolean>({ required: true });
</script>

<template>
  <Dialog v-model:visible="open" modal dismissable-mask :header="s.help.title" :style="{ width: 'min(520px, 94vw)' }">
    <dl data-test="help">
      <template v-for="[key, what] in s.help.rows" :key="key">
        <dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ what }}</dd>
      </template>
    </dl>
    <p class="letters">
      <Checkbox v-model="letterKeys" binary input-id="letter-keys" data-test="letter-keys" />
      <label for="letter-keys">{{ s.shell.keysOn }}</label>
      <span class="quiet">{{ s.shell.keysHelp }}</span>
    </p>
    <p class="quiet">{{ s.model }}</p>
  </Dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 6px 18px;
  margin: 0 0 16px;
}
dd {
  margin: 0;
}
.letters {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  margin-bottom: 12px;
}
kbd {
  font: inherit;
  font-weight: 600;
  padding: 1px 7px;
  border: 1.5px solid var(--line);
  border-radius: 3px;
}
</style>
