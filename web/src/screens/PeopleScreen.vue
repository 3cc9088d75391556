<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import { computed, onMounted, ref, shallowRef } from "vue";
import { useRouter } from "vue-router";
import { api, sentence, type Invitation, type JobSummary, type Logged, type Person, type Role } from "../api/client";
import PasswordField from "../fields/PasswordField.vue";
import AccountNews from "../firm/AccountNews.vue";
import SayAgain from "../firm/SayAgain.vue";
import SecondFactor from "../firm/SecondFactor.vue";
import KameMark from "../shell/KameMark.vue";
import { useMe } from "../stores/me";
import { locale } from "../lib/language";
import { s } from "../strings";

/** Who is in the firm and may do what, who is invited, and what was done with that; for each their own password and sessions. */
const me = useMe();
const router = useRouter();
const people = shallowRef<Person[]>([]);
const invitations = shallowRef<Invitation[]>([]);
const jobs = shallowRef<JobSummary[]>([]);
const log = shallowRef<Logged[]>([]);
const wrong = ref("");
const said = ref("");
const isOwner = computed(() => me.may("owner"));
const roles = (["viewer", "crew", "builder", "owner"] as const).map((value) => ({
  value,
  label: s.people.roles[value],
}));
const ofJob = roles.filter((r) => r.value !== "owner");
const role = ref<Role>("crew");
const job = ref(0);
const places = computed(() => [
  { value: 0, label: s.people.allJobs },
  ...jobs.value.map((j) => ({ value: j.id, label: j.name })),
]);
/** An address that lets whoever has it come in; shown this once. */
const address = ref("");
async function ask<T>(asked: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T | true | null> {
  const { data, error, response } = await asked.catch(() => ({ data: undefined, error: undefined, response: null }));
  wrong.value = response?.ok ? "" : sentence(error, s.errors.offline);
  return response?.ok ? (data ?? true) : null;
}
/** What is done once the password was said again. */
const again = shallowRef<(() => Promise<void>) | null>(null);
const prove = (proof: { password: string; code: string }) => api.POST("/api/prove", { body: proof });
async function goOn() {
  const rest = again.value;
  again.value = null;
  await rest?.();
}
/** Nothing was changed: what was chosen is shown as it stands. */
async function leaveIt() {
  again.value = null;
  people.value = [];
  await load();
}
/** Changes what others may do; where the password was said too long ago, once it was said again. */
async function change<T>(
  asked: () => Promise<{ data?: T; error?: unknown; response: Response }>,
  then: (made: T) => void,
) {
  const { data, error, response } = await asked().catch(() => ({ data: undefined, error: undefined, response: null }));
  const kind = (error as { type?: string } | undefined)?.type;
  if (kind === "say-password") return void (again.value = () => change(asked, then));
  wrong.value = response?.ok ? "" : sentence(error, s.errors.offline);
  if (data !== undefined) then(data);
  await load();
}
async function load() {
  if (!isOwner.value) return;
  const [all, open, list, lines] = await Promise.all([
    ask(api.GET("/api/people")),
    ask(api.GET("/api/invitations")),
    ask(api.GET("/api/jobs")),
    ask(api.GET("/api/audit")),
  ]);
  if (Array.isArray(all)) people.value = all;
  if (Array.isArray(open)) invitations.value = open;
  if (Array.isArray(list)) jobs.value = list;
  if (Array.isArray(lines)) log.value = lines;
}
onMounted(load);
const nothing = () => undefined;
async function invite() {
  const body = { role: role.value, job: job.value || null };
  await change(
    () => api.POST("/api/invitations", { body }),
    (made) => (address.value = `${location.origin}/sign-in?code=${made.code}`),
  );
}
async function takeBack(id: number) {
  await change(() => api.DELETE("/api/invitations/{id}", { params: { path: { id } } }), nothing);
}
async function setRole(id: number, to: Role | null, of: number | null = null) {
  const body = { role: to, job: of };
  await change(() => api.POST("/api/people/{id}/role", { params: { path: { id } }, body }), nothing);
}
const leaving = ref<Person | null>(null);
async function leave(p: Person) {
  leaving.value = null;
  await change(() => api.POST("/api/people/{id}/end", { params: { path: { id: p.id } } }), nothing);
}
async function dropSecond(p: Person) {
  const path = { id: p.id };
  await change(() => api.POST("/api/people/{id}/second-factor/remove", { params: { path } }), nothing);
}
const old = ref("");
const next = ref("");
async function changePassword() {
  const now = await ask(api.POST("/api/password", { body: { old: old.value, new: next.value } }));
  [old.value, next.value] = ["", ""];
  if (now && now !== true) {
    me.take(now);
    said.value = s.people.changed;
  }
}
async function everywhere() {
  const now = await ask(api.POST("/api/sign-out-everywhere"));
  if (now && now !== true) {
    me.take(now);
    said.value = s.people.ended;
  }
}
async function out() {
  await me.signOut();
  await router.push("/sign-in");
}
const nameOf = (id: number) => jobs.value.find((j) => j.id === id)?.name ?? `${id}`;
const when = (iso: string) => new Date(iso).toLocaleString(locale, { dateStyle: "medium", timeStyle: "short" });
</script>

<template>
  <div>
    <header class="bar">
      <RouterLink to="/" :aria-label="s.wall.back"><KameMark /></RouterLink>
      <h1>{{ s.people.title }}</h1>
      <Button text :label="s.people.signOut" data-test="sign-out" @click="out" />
    </header>
    <main class="page" data-test="people">
      <p v-if="wrong" role="alert" class="wrong">{{ wrong }}</p>
      <p v-if="said" role="status" class="said">{{ said }}</p>
      <AccountNews />
      <SayAgain
        v-if="again"
        :why="s.people.again"
        :label="s.people.againGo"
        :send="prove"
        @done="goOn"
        @cancel="leaveIt"
      />
      <section v-if="isOwner">
        <h2>{{ s.people.title }}</h2>
        <ul>
          <li v-for="p in people" :key="p.id" :class="{ gone: p.ended }" :data-person="p.name">
            <span class="who"
              ><b>{{ p.name }}</b> <span class="quiet">{{ p.login }}</span>
              <span v-for="j in p.jobs" :key="j.job" class="job"
                >{{ nameOf(j.job) }}: {{ s.people.roles[j.role] }}
                <button :aria-label="`${s.people.takeBack}: ${nameOf(j.job)}`" @click="setRole(p.id, null, j.job)">
                  ×
                </button></span
              ></span
            >
            <span v-if="p.ended" class="quiet">{{ s.people.left(when(p.ended)) }}</span>
            <template v-else>
              <Button
                v-if="p.second_factor && p.id !== me.me?.person?.id"
                size="small"
                text
                :label="s.people.secondOff"
                :aria-label="s.people.secondOf(p.name)"
                :title="s.people.secondOf(p.name)"
                @click="dropSecond(p)"
              />
              <span v-else-if="p.second_factor" class="quiet">{{ s.people.hasSecond }}</span>
              <Select
                :model-value="p.role"
                size="small"
                :options="[{ value: 'none', label: s.people.roles.none }, ...roles]"
                option-label="label"
                option-value="value"
                :aria-label="s.people.roleOf(p.name)"
                @update:model-value="(to: Role) => setRole(p.id, to)"
              />
              <Button
                v-if="leaving?.id !== p.id"
                size="small"
                text
                severity="danger"
                :label="s.people.leave"
                :aria-label="`${s.people.leave}: ${p.name}`"
                @click="leaving = p"
              />
              <Button v-else size="small" severity="danger" :label="s.people.reallyLeave" @click="leave(p)" />
            </template>
          </li>
        </ul>
        <p class="quiet">{{ s.people.rolesHelp }}</p>
        <h2>{{ s.people.invite }}</h2>
        <p class="row">
          <Select
            v-model="role"
            size="small"
            :options="job === 0 ? roles : ofJob"
            option-label="label"
            option-value="value"
            :aria-label="s.people.role"
            data-test="invite-role"
          />
          <Select
            v-model="job"
            size="small"
            :options="places"
            option-label="label"
            option-value="value"
            :aria-label="s.people.onJob"
          />
          <Button size="small" :label="s.people.invite" data-test="invite" @click="invite" />
        </p>
        <p v-if="address" class="code" data-test="invited">
          {{ s.people.send }} <code>{{ address }}</code>
        </p>
        <ul>
          <li v-for="i in invitations" :key="i.id">
            <span class="who"
              >{{ s.people.roles[i.role] }}<template v-if="i.job != null">, {{ nameOf(i.job) }}</template>
              <span class="quiet">{{ s.people.until(when(i.until)) }} · {{ i.by }}</span></span
            >
            <Button size="small" text :label="s.people.takeBack" @click="takeBack(i.id)" />
          </li>
        </ul>
      </section>
      <section v-if="me.me?.person">
        <h2>{{ me.me.person.name }}</h2>
        <form class="own" @submit.prevent="changePassword">
          <label for="old">{{ s.people.oldPassword }}</label>
          <PasswordField id="old" v-model="old" autocomplete="current-password" />
          <label for="next">{{ s.people.newPassword }}</label>
          <PasswordField id="next" v-model="next" autocomplete="new-password" />
          <Button type="submit" size="small" :label="s.people.change" />
        </form>
        <Button size="small" severity="secondary" :label="s.people.everywhere" @click="everywhere" />
        <SecondFactor />
        <p>
          <a href="/api/me/all" download data-test="all-of-me">{{ s.people.all }}</a>
        </p>
      </section>
      <details v-if="isOwner" data-test="audit">
        <summary>{{ s.people.log }}</summary>
        <ul class="log">
          <li v-for="l in log" :key="l.id">
            <span class="quiet">{{ when(l.at) }}</span> <b>{{ l.who || "–" }}</b> {{ l.what }} {{ l.about }}
          </li>
        </ul>
      </details>
    </main>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 10px 16px;
  color: var(--shell-ink);
  background: var(--shell);
}
.bar :deep(.p-button-text) {
  color: inherit;
}
.bar h1 {
  flex: 1;
  font-size: 1.2rem;
}
section {
  margin-bottom: 26px;
}
h2 {
  margin-top: 18px;
  font-size: 1.1rem;
}
ul {
  margin: 6px 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  min-height: 44px;
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}
.who {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  flex: 1;
  min-width: 200px;
}
.gone b {
  text-decoration: line-through;
}
.job {
  margin-left: 8px;
  padding: 1px 6px;
  border: 1px solid var(--line);
}
.job button {
  min-width: 24px;
  min-height: 24px;
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  cursor: pointer;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.own {
  display: grid;
  gap: 4px;
  max-width: 340px;
  margin-bottom: 12px;
}
.code code {
  display: block;
  padding: 8px;
  overflow-wrap: anywhere;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.said {
  padding: 8px 12px;
  background: var(--water-soft);
}
.wrong {
  padding: 8px 12px;
  background: var(--leak-soft);
  border-left: 4px solid var(--leak);
}
.log li {
  min-height: 28px;
}
summary {
  min-height: 36px;
  font-weight: 650;
}
</style>
