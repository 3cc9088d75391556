/** Where in Kame the address on a label leads, whatever machine it was printed for; null where it is no address. */
export function pathOf(text: string): string | null {
  if (!/^https?:\/\//i.test(text)) return null;
  try {
    const { pathname, search, hash } = new URL(text);
    return `${pathname}${search}${hash}`;
  } catch {
    return null;
  }
}
