import { firm } from "./words/firm";
import { onsite } from "./words/onsite";
import { practice } from "./words/practice";
import { shell } from "./words/shell";
import { truck } from "./words/truck";
import { wall } from "./words/wall";

/** Every word of the interface, in one place (`words/`), so that other languages can follow. Sentences about a wall come from the core. */
export const s = {
  kame: "Kame",
  tagline: "Which piece next, how long, over what, and where does the water go?",
  model:
    "A model for putting laps in order and comparing them, not a certified prediction. Local code, inspector and makers come first.",
  ...firm,
  ...shell,
  ...wall,
  ...onsite,
  ...truck,
  ...practice,
};
