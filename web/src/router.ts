import { createRouter, createWebHistory } from "vue-router";
import JobsScreen from "./screens/JobsScreen.vue";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", name: "jobs", component: JobsScreen },
    { path: "/jobs/:id(\\d+)", name: "wall", component: () => import("./screens/WallScreen.vue") },
    { path: "/jobs/:id(\\d+)/cut-list", name: "cut", component: () => import("./screens/CutScreen.vue") },
    { path: "/jobs/:id(\\d+)/truck", name: "truck", component: () => import("./screens/TruckScreen.vue") },
    { path: "/jobs/:id(\\d+)/compare", name: "compare", component: () => import("./screens/CompareScreen.vue") },
    { path: "/jobs/:id(\\d+)/start", name: "start", component: () => import("./screens/StartScreen.vue") },
    { path: "/jobs/:id(\\d+)/steps", name: "sheet", component: () => import("./screens/SheetScreen.vue") },
    { path: "/jobs/:id(\\d+)/schedule", name: "schedule", component: () => import("./screens/ScheduleScreen.vue") },
    { path: "/:rest(.*)", redirect: "/" },
  ],
});
