/** A number as people type it, with a comma or a point; `null` where nothing is typed, `undefined` where it is no number. */
export function typedNumber(text: string): number | null | undefined {
  const bare = text.trim().replace(",", ".");
  if (bare === "") return null;
  return /^[-+]?(\d+\.?\d*|\.\d+)$/.test(bare) ? Number(bare) : undefined;
}
