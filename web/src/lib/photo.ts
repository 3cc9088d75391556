import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex } from "@noble/hashes/utils.js";
import { del, get, set } from "idb-keyval";

/** The longer side of a photograph that is kept, points: a wrinkle is seen, and a day's work fits on a phone. */
const LONGEST = 1600;
const QUALITY = 0.8;

/** How large a picture is made: as it is, or its longer side shortened. */
export function fitted(width: number, height: number, longest = LONGEST): [number, number] {
  const by = Math.min(1, longest / Math.max(width, height, 1));
  return [Math.max(1, Math.round(width * by)), Math.max(1, Math.round(height * by))];
}

export const hashOf = (bytes: Uint8Array): string => bytesToHex(sha256(bytes));

/** A photograph made smaller; drawn anew it says no longer where it was taken. Null where it is no picture. */
export async function smaller(file: Blob): Promise<Blob | null> {
  const picture = await createImageBitmap(file, { imageOrientation: "from-image" }).catch(() => null);
  if (!picture) return null;
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = fitted(picture.width, picture.height);
  canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  picture.close();
  return await new Promise((done) => canvas.toBlob(done, "image/jpeg", QUALITY));
}

const key = (hash: string) => `photo-${hash}`;
/** Puts a photograph on the device, where it stays until it is on record. */
export async function keepPhoto(photo: Blob): Promise<string> {
  const bytes = new Uint8Array(await photo.arrayBuffer());
  const hash = hashOf(bytes);
  await set(key(hash), bytes);
  return hash;
}
export const keptPhoto = (hash: string): Promise<Uint8Array | undefined> => get(key(hash));
export const dropPhoto = (hash: string): Promise<void> => del(key(hash));
