/** A text in pieces: what is a fraction of an inch, and what stands between. */
export interface SizedPart {
  text: string;
  fraction: boolean;
}
/** Fractions as they stand on a tape: halves to sixty-fourths. Other numbers with a stroke between, such as days, are none. */
const FRACTION = /(?<![\d/])\d{1,2}\/(?:2|4|8|16|32|64)(?![\d/])/g;

/** Cuts a text at its fractions; put together again the parts are the text. */
export function sized(text: string): SizedPart[] {
  const out: SizedPart[] = [];
  let from = 0;
  for (const m of text.matchAll(FRACTION)) {
    if (m.index > from) out.push({ text: text.slice(from, m.index), fraction: false });
    out.push({ text: m[0], fraction: true });
    from = m.index + m[0].length;
  }
  if (from < text.length || out.length === 0) out.push({ text: text.slice(from), fraction: false });
  return out;
}
