/** What part of a drawing is seen, in drawing units: pure functions. */
export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}
/** How a drawing is laid on the screen: so many points to a unit, and where its origin lies. */
export interface Laid {
  k: number;
  x: number;
  y: number;
}
export interface Size {
  width: number;
  height: number;
}

/** Never closer than so many units. */
export const CLOSEST = 6;

/** A box around another with a margin on all sides. */
export function around(box: Box, margin: number): Box {
  return { x: box.x - margin, y: box.y - margin, width: box.width + 2 * margin, height: box.height + 2 * margin };
}

/** What is seen of a drawing that is laid so on an element. */
export function seenIn(laid: Laid, element: Size): Box {
  return { x: -laid.x / laid.k, y: -laid.y / laid.k, width: element.width / laid.k, height: element.height / laid.k };
}

/** Lays a drawing so that a box of it is seen whole, in the middle. */
export function laidToShow(box: Box, element: Size): Laid {
  const k = Math.min(element.width / box.width, element.height / box.height);
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  return { k, x: element.width / 2 - k * x, y: element.height / 2 - k * y };
}

/** How close and how far: never closer than 6 units, nor farther than the whole twice. */
export function extent(whole: Box, element: Size): [number, number] {
  const most = Math.min(element.width, element.height) / CLOSEST;
  const least = Math.max(element.width, element.height) / (2 * Math.max(whole.width, whole.height));
  return [Math.min(least, most), most];
}
