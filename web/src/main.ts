import "@fontsource-variable/archivo";
import { createPinia } from "pinia";
import PrimeVue from "primevue/config";
import { createApp } from "vue";
import App from "./App.vue";
import { router } from "./router";
import "./style.css";
import { KamePreset } from "./theme";

createApp(App)
  .use(createPinia())
  .use(router)
  .use(PrimeVue, {
    theme: {
      preset: KamePreset,
      options: { darkModeSelector: ".kame-dark", cssLayer: { name: "controls", order: "controls, kame" } },
    },
  })
  .mount("#app");
