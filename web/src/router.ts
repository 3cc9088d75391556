import { createRouter, createWebHistory } from "vue-router";
import { whenSignedOut } from "./api/client";
import { useMe } from "./stores/me";
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
        { path: "model", name: "newer-model", component: () => import("./screens/NewerModelScreen.vue") },
        { path: "files", name: "files", component: () => import("./screens/FilesScreen.vue") },
      ],
    },
    { path: "/sign-in", name: "sign-in", component: () => import("./screens/SignInScreen.vue") },
    { path: "/model", name: "model", component: () => import("./screens/ModelScreen.vue") },
    { path: "/ways", name: "ways", component: () => import("./screens/WaysScreen.vue") },
    { path: "/people", name: "people", component: () => import("./screens/PeopleScreen.vue") },
    {
      path: "/practice/:drill?/:level?/:seed?",
      name: "practice",
      component: () => import("./screens/PracticeScreen.vue"),
    },
    { path: "/:rest(.*)", redirect: "/" },
  ],
});

/** Where people sign in nobody comes further than the door. A phone without a signal goes on with what it has. */
router.beforeEach(async (to) => {
  const me = useMe();
  const known = me.me ?? (await me.load());
  if (!known || to.name === "sign-in") return true;
  if (!me.isIn) return { name: "sign-in", query: { to: to.fullPath } };
  const share = known.share;
  const own = share ? String(to.params.id) === String(share.job) : true;
  return (
    own || {
      name: share?.place ? "sheet" : "wall",
      params: { id: String(share?.job) },
      query: share?.place ? { place: share.place } : {},
    }
  );
});
whenSignedOut(() => {
  const me = useMe();
  if (!me.me?.signs_in || router.currentRoute.value.name === "sign-in") return;
  void me.load().then(() => router.push({ name: "sign-in", query: { to: router.currentRoute.value.fullPath } }));
});
