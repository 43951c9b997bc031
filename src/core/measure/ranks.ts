import { orderedBits } from './quantile';

/** What part of some samples a value is above: knots of the distribution function, straight between them. */
export interface Ranks {
  /** Values, rising. */
  readonly values: Float32Array;
  /** The part of the other samples up to each: 0 at the lowest, 1 at the highest. */
  readonly parts: Float32Array;
}

/** Knots stand at most this part of the samples apart, but where one value alone holds more. */
const FINEST = 1 / 16384;

/**
 * The ranks of the first `n` values of a plane, which must all be numbers: those up to a value, less those of the lowest, of
 * all less those of the lowest. By the values themselves, so that a hot sample costs the others no precision. Null where
 * there are no two values.
 */
export function ranksOf(plane: Float32Array, n: number): Ranks | null {
  const sorted = plane.slice(0, n).sort();
  if (n === 0 || sorted[0] === sorted[n - 1]) return null;
  const values: number[] = [];
  const ends: number[] = [];
  const keep = (end: number): void => {
    if (ends.at(-1) === end) return;
    values.push(sorted[end - 1]);
    ends.push(end);
  };
  for (let from = 0, end: number, last = 0; from < n; last = from, from = end) {
    for (end = from + 1; end < n && sorted[end] === sorted[from];) end++;
    const many = end - from >= FINEST * n;
    // The step up to a value that many samples share begins at the one before.
    if (many && last < from) keep(from);
    if (from === 0 || end === n || many || end - ends[ends.length - 1] >= FINEST * n) keep(end);
  }
  const lowest = ends[0];
  return {
    values: Float32Array.from(values),
    parts: Float32Array.from(ends, (end) => (end - lowest) / (n - lowest))
  };
}

/** Ranks with, for the upper half of a float's bits, the first knot that is not below: where a value is looked for. */
export interface RankTable extends Ranks {
  readonly hints: Uint32Array;
}

const HALF = 16;

export function rankTable(ranks: Ranks): RankTable {
  const hints = new Uint32Array(2 ** HALF + 1);
  const keys = Array.from(ranks.values, orderedBits);
  for (let digit = 0, knot = 0; digit < hints.length; digit++) {
    while (knot < keys.length && keys[knot] >>> HALF < digit) knot++;
    hints[digit] = knot;
  }
  return { ...ranks, hints };
}

/** The rank of each of the first `n` values; what is missing stays so. `out` may be `plane`. */
export function rankPlane(
  { values, parts, hints }: RankTable,
  plane: Float32Array,
  out: Float32Array,
  n: number
): void {
  const last = values.length - 1;
  for (let i = 0; i < n; i++) {
    const v = plane[i];
    if (!(v > values[0])) out[i] = v === v ? 0 : v;
    else if (v >= values[last]) out[i] = 1;
    else {
      const digit = orderedBits(v) >>> HALF;
      let low = Math.max(0, hints[digit] - 1);
      let high = Math.min(last, hints[digit + 1]);
      while (high - low > 1) {
        const middle = (low + high) >> 1;
        if (values[middle] <= v) low = middle;
        else high = middle;
      }
      const into = (v - values[low]) / (values[high] - values[low]);
      out[i] = parts[low] + into * (parts[high] - parts[low]);
    }
  }
}
