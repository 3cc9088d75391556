import { useEventListener, useStorage } from "@vueuse/core";

/** Keys of one letter can be switched off: who speaks to the machine, or has a shaky hand, presses them without meaning to. */
export const letterKeys = useStorage("kame-letter-keys", true);

/** What a key does. Named `ctrl z`, `alt ArrowUp`, `r`; with shift where the key itself does not say so: `ctrl shift z`. */
export type Shortcuts = Record<string, (e: KeyboardEvent) => void>;

/** How a key that is pressed is named. */
export function nameOf(e: Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey">): string {
  const ctrl = e.ctrlKey || e.metaKey;
  const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
  return [ctrl && "ctrl", e.altKey && "alt", ctrl && e.shiftKey && "shift", key].filter(Boolean).join(" ");
}

/** True where a key is a single printable character and nothing with it (WCAG 2.1.4); space and the like are no letters. */
export const isLetterKey = (name: string) => name.length === 1 && name !== " ";

/** Where keys belong to what has the focus. */
const THEIR_OWN = "input, textarea, [role=dialog], [role=menu], [role=listbox], [role=combobox]";

/** Does what keys say as long as the component lives. */
export function useShortcuts(keys: Shortcuts) {
  useEventListener(document, "keydown", (e: KeyboardEvent) => {
    const name = nameOf(e);
    const act = keys[name];
    if (!act || e.defaultPrevented) return;
    if (e.target instanceof Element && e.target.closest(THEIR_OWN)) return;
    if (isLetterKey(name) && !letterKeys.value) return;
    if (name === " " && e.target instanceof Element && e.target.closest("button, a")) return;
    e.preventDefault();
    act(e);
  });
}
