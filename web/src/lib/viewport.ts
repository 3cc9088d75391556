/** What part of a drawing is seen, in drawing units: pure functions. */
export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

const CLOSEST = 6;

/** A box around another with a margin on all sides. */
export function around(box: Box, margin: number): Box {
  return { x: box.x - margin, y: box.y - margin, width: box.width + 2 * margin, height: box.height + 2 * margin };
}

/** Zoomed by `factor` (below 1 is closer) so that the point stays where it is; never closer than 6 in nor farther than `whole` twice. */
export function zoomed(view: Box, factor: number, at: { x: number; y: number }, whole: Box): Box {
  const least = CLOSEST / Math.min(view.width, view.height);
  const most = (2 * Math.max(whole.width, whole.height)) / Math.max(view.width, view.height);
  const f = Math.min(Math.max(factor, least), most);
  return {
    x: at.x - (at.x - view.x) * f,
    y: at.y - (at.y - view.y) * f,
    width: view.width * f,
    height: view.height * f,
  };
}

/** Moved by a distance, its middle kept on the drawing. */
export function moved(view: Box, dx: number, dy: number, whole: Box): Box {
  const clamp = (v: number, lo: number, hi: number) => Math.min(Math.max(v, lo), hi);
  return {
    ...view,
    x: clamp(view.x + dx, whole.x - view.width / 2, whole.x + whole.width - view.width / 2),
    y: clamp(view.y + dy, whole.y - view.height / 2, whole.y + whole.height - view.height / 2),
  };
}

/** A point of the screen in drawing units, where the drawing is fitted whole into its element. */
export function toDrawing(client: { x: number; y: number }, element: Box, view: Box): { x: number; y: number } {
  const scale = Math.max(view.width / element.width, view.height / element.height);
  const left = view.x + view.width / 2 - (element.width / 2) * scale;
  const top = view.y + view.height / 2 - (element.height / 2) * scale;
  return { x: left + (client.x - element.x) * scale, y: top + (client.y - element.y) * scale };
}
