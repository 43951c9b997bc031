/** Exact order statistics of float samples, by selection: no bins over a range that one hot sample could stretch. */

const DIGITS = 65536;
const value = new Float32Array(1);
const bits = new Uint32Array(value.buffer);

/** A float's bits (IEEE 754) as an integer that grows with the float. */
export function orderedBits(v: number): number {
  value[0] = v;
  const raw = bits[0];
  return raw >>> 31 ? ~raw >>> 0 : (raw | 0x80000000) >>> 0;
}

function fromOrdered(key: number): number {
  bits[0] = key >>> 31 ? key & 0x7fffffff : ~key >>> 0;
  return value[0];
}

/** The place of a rank among counts, and how many stand before it. */
function digitOf(counts: Uint32Array, rank: number): { digit: number; before: number } {
  let before = 0;
  let digit = 0;
  while (before + counts[digit] <= rank) before += counts[digit++];
  return { digit, before };
}

/**
 * The values of some ranks, from 0, among the first `n` of a plane that are numbers: two rounds of counting by the upper
 * and the lower half of a float's bits (radix selection).
 */
function selected(plane: Float32Array, n: number, upper: Uint32Array, ranks: readonly number[]): number[] {
  return ranks.map((rank) => {
    const { digit, before } = digitOf(upper, rank);
    const lower = new Uint32Array(DIGITS);
    for (let i = 0; i < n; i++) {
      if (plane[i] !== plane[i]) continue;
      const key = orderedBits(plane[i]);
      if (key >>> 16 === digit) lower[key & 0xffff]++;
    }
    return fromOrdered(((digit << 16) | digitOf(lower, rank - before).digit) >>> 0);
  });
}

/**
 * Quantiles of the first `n` values that are numbers, at parts of 0…1: straight between the two values about the place
 * part·(count − 1) (Hyndman & Fan 1996, type 7). 0 where there is no value.
 */
export function quantiles(plane: Float32Array, n: number, parts: readonly number[]): number[] {
  const upper = new Uint32Array(DIGITS);
  let total = 0;
  for (let i = 0; i < n; i++) {
    if (plane[i] !== plane[i]) continue;
    upper[orderedBits(plane[i]) >>> 16]++;
    total++;
  }
  if (total === 0) return parts.map(() => 0);
  return parts.map((part) => {
    const place = part * (total - 1);
    const below = Math.floor(place);
    const [low, high] = selected(plane, n, upper, [below, Math.min(total - 1, below + 1)]);
    return low + (high - low) * (place - below);
  });
}
