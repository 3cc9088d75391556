import type { Drill, Elevation, SceneView } from "../api/client";

export const DRILLS: Drill[] = ["order", "find", "measure", "call", "repair"];

/** A seed that is not the last one: the same scene never comes twice in a row. */
export function nextSeed(last: number | null, random: () => number): number {
  const seed = Math.floor(random() * 1e9);
  return seed === last ? seed + 1 : seed;
}

/** The address of a scene. */
export const sceneAddress = (
  drill: Drill,
  level: number,
  seed: number,
  job?: number | null,
  focus?: string | null,
) => ({
  name: "practice",
  params: { drill, level: String(level), seed: String(seed) },
  query: { ...(job ? { job: String(job) } : {}), ...(focus ? { focus } : {}) },
});

/** Pieces that can be marked, by the name people call them, each once. */
export function piecesOf(
  scene: Pick<SceneView, "elevation" | "sections" | "apart" | "lies">,
): { id: string; name: string }[] {
  const seen = new Map<string, string>();
  const drawn = [
    ...scene.elevation.shapes,
    ...scene.sections.flatMap((x) => x.built?.runs ?? []),
    ...scene.apart.flatMap((x) => x.pieces),
    ...scene.lies,
  ];
  for (const { piece, name } of drawn) if (!seen.has(piece)) seen.set(piece, name);
  return [...seen].map(([id, name]) => ({ id, name })).sort((a, b) => a.name.localeCompare(b.name));
}

/** The wall of a scene with what some steps lay over it, in their order. */
export function composed(scene: Pick<SceneView, "elevation" | "lay">, steps: string[]): Elevation {
  const laid = steps.flatMap((step) => scene.lay.find((l) => l.step === step)?.picture?.now ?? []);
  return { ...scene.elevation, shapes: [...scene.elevation.shapes, ...laid] };
}

/** What is in the way of a list that is laid piece by piece: what sticks is thrown away when it is taken back. */
export interface Laid {
  steps: string[];
  wasted: number;
  hints: number;
}
export const laidNothing = (): Laid => ({ steps: [], wasted: 0, hints: 0 });
export const lay = (l: Laid, step: string): Laid => (l.steps.includes(step) ? l : { ...l, steps: [...l.steps, step] });
export const takeBack = (l: Laid, sticks: boolean): Laid =>
  l.steps.length === 0 ? l : { ...l, steps: l.steps.slice(0, -1), wasted: l.wasted + (sticks ? 1 : 0) };

/** A measure as it is typed, in inches: 38, 38.5, 38 1/2, 3-2 1/2 (feet and inches); null where it is none. */
export function inchesOf(text: string): string | null {
  const match = /^\s*(?:(\d+)\s*(?:'|ft|-)\s*)?(\d+(?:\.\d+)?)?(?:\s*(\d+)\/(\d+))?\s*(?:"|in)?\s*$/.exec(text);
  if (!match || text.trim() === "") return null;
  const [, feet = "0", whole = "0", over, under] = match;
  const part = over && Number(under) > 0 ? Number(over) / Number(under) : 0;
  const value = Number(feet) * 12 + Number(whole) + part;
  return value > 0 && value < 10000 ? `${value} in` : null;
}
