/** The languages of the interface and of cards and checks. What the water says of a wall is English in both. */
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

/** Takes another language: words are read once, so the page is opened anew. False where this browser keeps nothing of it. */
export function speak(language: Language): boolean {
  try {
    localStorage.setItem(KEY, language);
  } catch {
    return false;
  }
  location.reload();
  return true;
}
