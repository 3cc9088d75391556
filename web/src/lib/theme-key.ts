import type { InjectionKey, Ref } from "vue";

/** Whether the dark theme is on. */
export const darkKey: InjectionKey<Ref<boolean>> = Symbol("dark");
