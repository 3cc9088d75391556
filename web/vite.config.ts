import vue from "@vitejs/plugin-vue";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [vue()],
  // Another number in its place with each page that is served.
  html: { cspNonce: "KAME-PAGE-NUMBER" },
  server: { proxy: { "/api": "http://127.0.0.1:4600" } },
  build: { target: "es2022", assetsInlineLimit: 0 },
});
