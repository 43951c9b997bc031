const STEPS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1]
};

/** Where an arrow key leads on the screen, right and down; nowhere for any other key. */
export const arrowStep = ({ key }: { readonly key: string }): readonly [number, number] =>
  STEPS[key] ?? [0, 0];

/**
 * What an arrow does in an upright list: goes to the neighbour, or with Alt moves the item there.
 * @returns the places after it: where each item comes from (null where none moved), and the chosen one; null for no arrow
 */
export function listStep(
  { key, altKey }: { readonly key: string; readonly altKey: boolean },
  at: number,
  count: number
): { readonly order: readonly number[] | null; readonly at: number } | null {
  const by = STEPS[key]?.[1] ?? 0;
  const to = at + by;
  if (by === 0) return null;
  if (to < 0 || to >= count) return { order: null, at };
  if (!altKey) return { order: null, at: to };
  const order = Array.from({ length: count }, (_, i) => i);
  [order[at], order[to]] = [to, at];
  return { order, at: to };
}
