<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { ref } from "vue";
import { sentence } from "../api/client";
import PasswordField from "../fields/PasswordField.vue";
import { s } from "../strings";
import { useMe } from "../stores/me";

/** Says the password once more, with the telephone's figures where a second factor is set, for what is sent with them. */
const props = defineProps<{
  why: string;
  label: string;
  send: (proof: { password: string; code: string }) => Promise<{ error?: unknown; response: Response }>;
}>();
const emit = defineEmits<{ done: []; cancel: [] }>();
const me = useMe();
const password = ref("");
const code = ref("");
const wrong = ref("");
async function go() {
  const asked = await props
    .send({ password: password.value, code: code.value })
    .catch(() => ({ error: undefined, response: null }));
  code.value = "";
  if (!asked.response?.ok) return void (wrong.value = sentence(asked.error, s.errors.offline));
  password.value = "";
  emit("done");
}
</script>

<template>
  <form class="again" data-test="say-again" @submit.prevent="go">
    <p>{{ why }}</p>
    <label for="again">{{ s.people.password }}</label>
    <PasswordField id="again" v-model="password" autocomplete="current-password" />
    <template v-if="me.me?.person?.second_factor">
      <label for="again-code">{{ s.people.figures }}</label>
      <InputText id="again-code" v-model="code" autocomplete="one-time-code" maxlength="40" required />
    </template>
    <p v-if="wrong" role="alert" class="wrong">{{ wrong }}</p>
    <span class="row">
      <Button type="submit" size="small" :label="label" data-test="say-again-go" />
      <Button type="button" size="small" text :label="s.jobs.cancel" @click="emit('cancel')" />
    </span>
  </form>
</template>

<style scoped>
.again {
  display: grid;
  gap: 4px;
  max-width: 420px;
  margin: 10px 0;
  padding: 12px 16px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
p {
  margin: 0 0 4px;
}
.wrong {
  padding: 8px 12px;
  background: var(--leak-soft);
  border-left: 4px solid var(--leak);
}
.row {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
</style>
