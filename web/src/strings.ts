import { language } from "./lib/language";
import { es } from "./words/es";
import { firm } from "./words/firm";
import { onsite } from "./words/onsite";
import { practice } from "./words/practice";
import { shell } from "./words/shell";
import { truck } from "./words/truck";
import { wall } from "./words/wall";

const en = {
  kame: "Kame",
  tagline: "Which piece next, how long, over what, and where does the water go?",
  model:
    "A model for putting laps in order and comparing them, not a certified prediction. Local code, inspector and makers come first.",
  languageHelp: "Parts of the truck, practice and papers are in English.",
  languageNotKept: "This browser keeps nothing for Kame: allow it to keep data of sites.",
  language: "Language",
  ...firm,
  ...shell,
  ...wall,
  ...onsite,
  ...truck,
  ...practice,
};

/** Every word of the interface, in one place for each language (`words/`). Sentences about a wall come from the core. */
export const s: typeof en = { en, es }[language];
