import { defineStore } from "pinia";
import { computed, shallowRef } from "vue";
import { api, type Me, type Role } from "../api/client";
import { saysToken } from "../api/token";

const RANKS: Role[] = ["none", "viewer", "crew", "builder", "owner"];

/** Who has signed in, and what they may do. Where nobody signs in everybody may do everything. */
export const useMe = defineStore("me", () => {
  const me = shallowRef<Me | null>(null);
  function take(now: Me) {
    me.value = now;
    saysToken(now.token ?? null);
  }
  async function load() {
    const { data } = await api.GET("/api/me").catch(() => ({ data: undefined }));
    if (data) take(data);
    return me.value;
  }
  /** Signed in, by a link, or where nobody has to be. */
  const isIn = computed(() => !me.value?.signs_in || !!me.value.person || !!me.value.share);
  function may(role: Role, job?: number): boolean {
    if (!me.value || !me.value.signs_in) return true;
    const person = me.value.person;
    if (!person) return role === "viewer" && job !== undefined && me.value.share?.job === job;
    const has = person.role === "owner" ? "owner" : (person.jobs.find((j) => j.job === job)?.role ?? person.role);
    return RANKS.indexOf(has) >= RANKS.indexOf(role);
  }
  async function signOut() {
    await api.POST("/api/sign-out").catch(() => undefined);
    await load();
  }
  return { me, isIn, may, load, take, signOut };
});
