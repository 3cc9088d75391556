<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { computed, nextTick, ref } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, sentence } from "../api/client";
import PasswordField from "../fields/PasswordField.vue";
import KameMark from "../shell/KameMark.vue";
import { useMe } from "../stores/me";
import LanguageChoice from "../shell/LanguageChoice.vue";
import { s } from "../strings";

/** Signing in, or coming by a code: the first by the one that Kame printed, others by an invitation. */
const me = useMe();
const route = useRoute();
const router = useRouter();
const comes = ref(me.me?.first === true || typeof route.query.code === "string");
const code = ref(typeof route.query.code === "string" ? route.query.code : "");
const name = ref("");
const login = ref("");
const password = ref("");
/** What the telephone shows, asked for once the password was right. */
const asksCode = ref(false);
const figures = ref("");
const wrong = ref("");
const asking = ref(false);
const help = computed(() => (me.me?.first ? s.people.firstHelp : s.people.joinHelp));
async function send() {
  [asking.value, wrong.value] = [true, ""];
  const asked = comes.value
    ? api.POST("/api/join", {
        body: { code: code.value, name: name.value.trim(), login: login.value.trim(), password: password.value },
      })
    : api.POST("/api/sign-in", {
        body: { login: login.value.trim(), password: password.value, code: figures.value },
      });
  const { data, error } = await asked.catch(() => ({ data: undefined, error: undefined }));
  asking.value = false;
  figures.value = "";
  // The password was right: the telephone's figures are still to be said.
  if (error?.type === "code-asked" && !asksCode.value) {
    asksCode.value = true;
    await nextTick();
    document.getElementById("figures")?.focus();
    return;
  }
  if (error?.type !== "code-asked" && error?.type !== "wrong-code") password.value = "";
  if (!data) return void (wrong.value = sentence(error, s.errors.offline));
  me.take(data);
  const to = route.query.to;
  await router.replace(typeof to === "string" && /^\/(?!\/)/.test(to) ? to : "/");
}
</script>

<template>
  <main class="door" data-test="sign-in">
    <div class="word">
      <KameMark />
      <div>
        <h1>{{ s.kame }}</h1>
        <p class="quiet">{{ s.tagline }}</p>
      </div>
    </div>
    <form @submit.prevent="send">
      <h2>{{ comes ? (me.me?.first ? s.people.first : s.people.join) : s.people.signIn }}</h2>
      <p v-if="comes" class="quiet">{{ help }}</p>
      <template v-if="comes">
        <label for="code">{{ s.people.code }}</label>
        <InputText id="code" v-model="code" autocomplete="one-time-code" required data-test="code" />
        <label for="name">{{ s.people.name }}</label>
        <InputText id="name" v-model="name" autocomplete="name" maxlength="80" required data-test="name" />
      </template>
      <label for="login">{{ s.people.login }}</label>
      <InputText id="login" v-model="login" autocomplete="username" maxlength="80" required data-test="login" />
      <label for="password">{{ s.people.password }}</label>
      <PasswordField
        id="password"
        v-model="password"
        :autocomplete="comes ? 'new-password' : 'current-password'"
        :describedby="comes ? 'password-help' : undefined"
      />
      <template v-if="asksCode">
        <label for="figures">{{ s.people.figures }}</label>
        <InputText
          id="figures"
          v-model="figures"
          autocomplete="one-time-code"
          maxlength="40"
          required
          data-test="sign-in-figures"
        />
      </template>
      <p v-if="comes" id="password-help" class="quiet">{{ s.people.passwordHelp }}</p>
      <p v-if="wrong" role="alert" class="wrong" data-test="sign-in-wrong">{{ wrong }}</p>
      <Button type="submit" :loading="asking" :label="comes ? s.people.come : s.people.signIn" data-test="sign-in-go" />
      <Button
        v-if="!me.me?.first"
        type="button"
        text
        :label="comes ? s.people.haveOne : s.people.haveCode"
        data-test="sign-in-other"
        @click="comes = !comes"
      />
    </form>
    <LanguageChoice class="quiet" />
  </main>
</template>

<style scoped>
.door {
  display: grid;
  gap: 20px;
  align-content: center;
  justify-items: center;
  min-height: 100vh;
  padding: 24px 16px;
}
.word {
  display: flex;
  gap: 14px;
  align-items: center;
  width: min(400px, 100%);
}
.word :deep(.mark) {
  width: 56px;
  height: 56px;
}
form {
  display: grid;
  gap: 6px;
  width: min(400px, 100%);
  padding: 20px 22px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
label {
  margin-top: 8px;
  font-weight: 650;
}
button {
  margin-top: 12px;
}
.wrong {
  padding: 8px 12px;
  background: var(--leak-soft);
  border-left: 4px solid var(--leak);
}
</style>
