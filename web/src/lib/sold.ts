import type { SoldSize } from "../api/client";

/** Sizes of the same measures have the same key, whatever they cost and however an inch is written. */
export function sizeKey(z: { [K in keyof SoldSize]?: unknown }): string {
  const plain = (x: unknown) =>
    x === null || x === undefined || x === "" ? null : `${x as string}`.replace(/ in$/, "");
  return JSON.stringify([z.width, z.length, z.fl_oz, z.gallons, z.count].map(plain));
}

/** A size as people say it. */
export function sizeWords(z: SoldSize): string {
  const plain = (l: string) => {
    const bare = l.replace(/ in$/, "");
    const inches = Number(bare);
    if (Number.isNaN(inches)) return bare;
    return inches >= 120 && inches % 12 === 0 ? `${inches / 12}'` : `${bare}"`;
  };
  const parts = [z.width && plain(z.width), z.length && plain(z.length)].filter(Boolean);
  if (z.fl_oz) parts.push(`${z.fl_oz} fl oz`);
  if (z.gallons) parts.push(`${z.gallons} gal`);
  if (z.count) parts.push(`${z.count}`);
  return parts.join(" × ");
}
