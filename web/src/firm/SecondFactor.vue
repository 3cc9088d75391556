<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { computed, ref, shallowRef } from "vue";
import { api, sentence } from "../api/client";
import type { components } from "../api/schema.gen";
import { s } from "../strings";
import { useMe } from "../stores/me";
import SayAgain from "./SayAgain.vue";

/** The second factor of who has signed in: offered by a picture for the telephone, set by what it shows, taken away. */
const me = useMe();
const has = computed(() => me.me?.person?.second_factor === true);
const left = computed(() => me.me?.spare_codes);
const asking = ref(false);
type Offered = components["schemas"]["Offered"];
/** What was offered, until the form that asked for it has gone. */
let found: Offered | null = null;
const offered = shallowRef<Offered | null>(null);
/** In fours, as people type it. */
const secret = computed(() => offered.value?.secret.match(/.{1,4}/g)?.join(" ") ?? "");
const figures = ref("");
const wrong = ref("");
const spare = ref<string[]>([]);
const picture = computed(() =>
  offered.value ? `data:image/svg+xml,${encodeURIComponent(offered.value.picture)}` : "",
);
type Proof = { password: string; code: string };
async function send(proof: Proof) {
  spare.value = [];
  if (has.value) return api.POST("/api/second-factor/remove", { body: proof });
  const asked = await api.POST("/api/second-factor", { body: proof });
  if (asked.data) found = asked.data;
  return asked;
}
async function done() {
  asking.value = false;
  offered.value = found;
  found = null;
  if (!offered.value) await me.load();
}
async function set() {
  const { data, error } = await api
    .POST("/api/second-factor/set", { body: { code: figures.value } })
    .catch(() => ({ data: undefined, error: undefined }));
  figures.value = "";
  if (!data) return void (wrong.value = sentence(error, s.errors.offline));
  [wrong.value, offered.value, spare.value] = ["", null, data.spare];
  me.take(data.me);
}
</script>

<template>
  <div class="second" data-test="second-factor">
    <h3>{{ s.people.second }}</h3>
    <p class="quiet">
      {{ has ? s.people.secondSet : s.people.secondHelp }}
      <span v-if="typeof left === 'number'" data-test="spare-left">{{ s.people.spareLeft(left) }}</span>
    </p>
    <template v-if="offered">
      <div class="offer">
        <img :src="picture" :alt="s.people.secondPicture" width="200" height="200" />
        <p>
          {{ s.people.secondScan }} <code data-test="second-secret">{{ secret }}</code>
        </p>
      </div>
      <form class="set" @submit.prevent="set">
        <label for="figures">{{ s.people.sixFigures }}</label>
        <InputText
          id="figures"
          v-model="figures"
          autocomplete="one-time-code"
          inputmode="numeric"
          maxlength="8"
          required
          data-test="second-figures"
        />
        <p v-if="wrong" role="alert" class="wrong">{{ wrong }}</p>
        <Button type="submit" size="small" :label="s.people.secondOn" data-test="second-set" />
      </form>
    </template>
    <SayAgain
      v-else-if="asking"
      :why="has ? s.people.secondOffWhy : s.people.secondWhy"
      :label="has ? s.people.secondOff : s.people.secondNext"
      :send="send"
      @done="done"
      @cancel="asking = false"
    />
    <Button
      v-else
      size="small"
      severity="secondary"
      :label="has ? s.people.secondOff : s.people.secondStart"
      data-test="second-start"
      @click="asking = true"
    />
    <div v-if="spare.length" class="spare" role="status" data-test="spare-codes">
      <p>{{ s.people.spare }}</p>
      <ol>
        <li v-for="code in spare" :key="code">
          <code>{{ code.slice(0, 6) }}-{{ code.slice(6) }}</code>
        </li>
      </ol>
    </div>
  </div>
</template>

<style scoped>
.second {
  max-width: 560px;
  margin: 14px 0;
}
h3 {
  font-size: 1rem;
}
.offer {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: center;
  margin: 10px 0;
}
.offer p {
  flex: 1;
  min-width: 220px;
}
img {
  border: 1px solid var(--line);
}
code {
  overflow-wrap: anywhere;
}
.set {
  display: grid;
  gap: 4px;
  max-width: 260px;
}
.wrong {
  padding: 8px 12px;
  background: var(--leak-soft);
  border-left: 4px solid var(--leak);
}
.spare {
  margin-top: 12px;
  padding: 12px 16px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.spare ol {
  columns: 2;
  max-width: 380px;
}
</style>
