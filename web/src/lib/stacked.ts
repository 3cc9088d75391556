import type { Elevation } from "../api/client";
import { areas, lines } from "./figures";

type Shape = Elevation["shapes"][number];

/** Shapes that are drawn as one: of one role, none over another. */
export interface Sheet {
  role: Shape["role"];
  held: boolean;
  areas: string;
  edges: string;
}

type Box = [number, number, number, number];

function boxOf(s: Shape): Box {
  const box: Box = [Infinity, Infinity, -Infinity, -Infinity];
  for (const part of s.parts)
    for (const [x = 0, y = 0] of part) {
      box[0] = Math.min(box[0], x);
      box[1] = Math.min(box[1], y);
      box[2] = Math.max(box[2], x);
      box[3] = Math.max(box[3], y);
    }
  return box;
}

const meet = (a: Box, b: Box) => a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];

/**
 * Many shapes as few: each comes to lie in the lowest layer in which it is still over everything that is under it, and what has one role in one
 * layer is one. It looks as if they were drawn one after another. What is less than `least` high or wide is left out.
 */
export function stacked(shapes: Shape[], least: number): Sheet[] {
  const layers: { boxes: Box[]; roles: Map<string, Shape[]> }[] = [];
  for (const shape of shapes) {
    const box = boxOf(shape);
    if (box[2] - box[0] < least || box[3] - box[1] < least) continue;
    let at = layers.length;
    while (at > 0 && !layers[at - 1]?.boxes.some((b) => meet(b, box))) at--;
    const layer = (layers[at] ??= { boxes: [], roles: new Map() });
    layer.boxes.push(box);
    const key = `${shape.role} ${shape.held}`;
    const list = layer.roles.get(key);
    if (list) list.push(shape);
    else layer.roles.set(key, [shape]);
  }
  return layers.flatMap((l) =>
    [...l.roles.values()].flatMap((list) => {
      const [first] = list;
      if (!first) return [];
      const areasOf = list.map((s) => areas(s.parts)).join("");
      return [{ role: first.role, held: first.held, areas: areasOf, edges: list.map((s) => lines(s.edges)).join("") }];
    }),
  );
}
