import type { RouteLocationRaw } from "vue-router";
import { s } from "../strings";

/** A room of a job: one of its screens, by the name under which the navigation and the palette know it. */
export interface Room {
  id: "start" | "wall" | "cut" | "truck" | "days" | "site" | "record" | "sheet" | "kit" | "files";
  label: string;
}

/** Rooms in the order of the work, then those beside it. */
export const rooms: Room[] = (
  ["start", "wall", "cut", "truck", "days", "site", "record", "sheet", "kit", "files"] as const
).map((id) => ({
  id,
  label: s.shell[id],
}));

/** What stands under the truck's, the days' and the kit's names. */
export const shelves = {
  truck: ["order", "sums", "mix"],
  days: ["days"],
  kit: ["kit", "pairs", "figures"],
} as const;
export type Shelf = (typeof shelves)[keyof typeof shelves][number];

/** The address of a room. */
export function roomAddress(room: Room["id"], id: string): RouteLocationRaw {
  const params = { id };
  if (room === "truck") return { name: "truck", params: { ...params, tab: "" } };
  if (room === "days" || room === "kit") return { name: "truck", params: { ...params, tab: room } };
  if (room === "site") return { name: "site", params: { ...params, place: "" } };
  return { name: room, params };
}

/** In which room an address is. */
export function roomOf(name: unknown, tab: unknown): Room["id"] | null {
  if (name === "truck") {
    const held = Object.entries(shelves).find(([, list]) => (list as readonly unknown[]).includes(tab));
    return (held?.[0] as Room["id"] | undefined) ?? "truck";
  }
  if (name === "walk") return "site";
  if (name === "newer-model") return "files";
  if (name === "compare" || name === "schedule" || name === "repair") return "wall";
  return rooms.find((r) => r.id === name)?.id ?? null;
}
