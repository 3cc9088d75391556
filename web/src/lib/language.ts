/** The languages of the interface. What the core says of a wall, cards and findings, is English in both. */
export const LANGUAGES = { en: "English", es: "Español" } as const;
export type Language = keyof typeof LANGUAGES;

const KEY = "kame.language";

/** What was chosen on this device; English where nothing was, or where nothing can be kept. */
function chosen(): Language {
  try {
    return localStorage.getItem(KEY) === "es" ? "es" : "en";
  } catch {
    return "en";
  }
}

export const language: Language = chosen();

/** How dates and times are written. */
export const locale = { en: "en-US", es: "es-US" }[language];

/** Takes another language: words are read once, so the page is opened anew. */
export function speak(language: Language) {
  localStorage.setItem(KEY, language);
  location.reload();
}
