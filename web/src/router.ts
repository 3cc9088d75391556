import { createRouter, createWebHistory } from "vue-router";
import JobsScreen from "./screens/JobsScreen.vue";

/** Every screen of a job hangs in one frame. What is chosen on the wall stands in the address: `place`, `step`, `finding`. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", name: "jobs", component: JobsScreen },
    {
      path: "/jobs/:id(\\d+)",
      component: () => import("./shell/JobFrame.vue"),
      children: [
        { path: "", name: "wall", component: () => import("./screens/WallScreen.vue") },
        { path: "cut-list", name: "cut", component: () => import("./screens/CutScreen.vue") },
        { path: "truck/:tab?", name: "truck", component: () => import("./screens/TruckScreen.vue") },
        { path: "compare", name: "compare", component: () => import("./screens/CompareScreen.vue") },
        { path: "start", name: "start", component: () => import("./screens/StartScreen.vue") },
        { path: "steps", name: "sheet", component: () => import("./screens/SheetScreen.vue") },
        { path: "schedule", name: "schedule", component: () => import("./screens/ScheduleScreen.vue") },
        { path: "site/:place?", name: "site", component: () => import("./screens/SiteScreen.vue") },
        { path: "repair", name: "repair", component: () => import("./screens/RepairScreen.vue") },
        { path: "walk", name: "walk", component: () => import("./screens/WalkScreen.vue") },
        { path: "record", name: "record", component: () => import("./screens/RecordScreen.vue") },
        { path: "files", name: "files", component: () => import("./screens/FilesScreen.vue") },
      ],
    },
    {
      path: "/practice/:drill?/:level?/:seed?",
      name: "practice",
      component: () => import("./screens/PracticeScreen.vue"),
    },
    { path: "/:rest(.*)", redirect: "/" },
  ],
});
