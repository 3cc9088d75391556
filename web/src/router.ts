import { createRouter, createWebHistory } from "vue-router";
import JobsScreen from "./screens/JobsScreen.vue";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", name: "jobs", component: JobsScreen },
    { path: "/jobs/:id(\\d+)", name: "wall", component: () => import("./screens/WallScreen.vue") },
    { path: "/jobs/:id(\\d+)/cut-list", name: "cut", component: () => import("./screens/CutScreen.vue") },
    { path: "/:rest(.*)", redirect: "/" },
  ],
});
