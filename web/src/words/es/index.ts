import { firm } from "./firm";
import { onsite } from "./onsite";
import { practice } from "./practice";
import { shell } from "./shell";
import { truck } from "./truck";
import { wall } from "./wall";

/** Las palabras de la interfaz en español. */
export const es = {
  kame: "Kame",
  tagline: "¿Qué pieza sigue, de qué largo, encima de qué, y a dónde va el agua?",
  model:
    "Un modelo para ordenar solapes y compararlos, no una predicción certificada. Primero el código local, el inspector y los fabricantes.",
  languageHelp: "El camión, la práctica y los papeles van en parte en inglés.",
  languageNotKept: "Este navegador no guarda nada de Kame: permítale guardar datos de sitios.",
  language: "Idioma",
  ...firm,
  ...shell,
  ...wall,
  ...onsite,
  ...truck,
  ...practice,
};
