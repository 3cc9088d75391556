import "@fontsource-variable/archivo";
import { createPinia } from "pinia";
import PrimeVue from "primevue/config";
import { createApp } from "vue";
import App from "./App.vue";
import { language } from "./lib/language";
import { router } from "./router";
import "./style.css";
import { KamePreset } from "./theme";

/** Styles that the controls write themselves bear the number of the page. */
const nonce = document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce;

document.documentElement.lang = language;

createApp(App)
  .use(createPinia())
  .use(router)
  .use(PrimeVue, {
    csp: { nonce },
    theme: {
      preset: KamePreset,
      options: { darkModeSelector: ".kame-dark", cssLayer: { name: "controls", order: "controls, kame" } },
    },
  })
  .mount("#app");
