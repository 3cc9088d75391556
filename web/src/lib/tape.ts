/** Where an end of a tape is, in inches on the drawing. */
export type TapeEnd = [number, number];
interface Box {
  x: number;
  y: number;
  w: number;
  h: number;
}

/** A hook catches an edge that is no farther away than this, in. */
const CATCHES = 2.5;

/** A point as a tape finds it: at an edge of the opening where one is near. */
export function hooked({ x, y, w, h }: Box, [px, py]: TapeEnd): TapeEnd {
  const near = (at: number, edges: number[]) => edges.find((e) => Math.abs(e - at) <= CATCHES) ?? at;
  return [near(px, [x, x + w]), near(py, [y, y + h])];
}

/** A tape is pulled level or plumb, whichever is nearer. */
export function pulled([ax, ay]: TapeEnd, [bx, by]: TapeEnd): TapeEnd {
  return Math.abs(bx - ax) >= Math.abs(by - ay) ? [bx, ay] : [ax, by];
}

/** What stands on a tape there: inches and the nearest sixteenth. */
export function onTape(inches: number): string {
  const sixteenths = Math.round(inches * 16);
  const [whole, rest] = [Math.floor(sixteenths / 16), sixteenths % 16];
  if (rest === 0) return `${whole}"`;
  let [over, under] = [rest, 16];
  while (over % 2 === 0) [over, under] = [over / 2, under / 2];
  return whole === 0 ? `${over}/${under}"` : `${whole} ${over}/${under}"`;
}
