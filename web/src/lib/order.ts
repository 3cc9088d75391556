/** A step by its id. */
interface Step {
  id: string;
}

/**
 * Before which step another lands that is put at a place among those that are shown, of which there may be fewer than there are: right before
 * the one that stands there, or right behind the last shown. `null` is the end; `undefined` where it would stay where it is.
 */
export function landsBefore(all: Step[], shown: Step[], step: string, place: number): string | null | undefined {
  const from = shown.findIndex((x) => x.id === step);
  if (place === from || place === from + 1) return undefined;
  const next = shown[place];
  // Upward it goes before what stands there; downward behind the one it passes.
  if (next && place < from) return next.id;
  const passed = shown[place - 1];
  if (!passed) return next?.id ?? null;
  const behind = all.findIndex((x) => x.id === passed.id) + 1;
  const rest = all.slice(behind).filter((x) => x.id !== step);
  return rest[0]?.id ?? null;
}
