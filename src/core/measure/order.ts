/** Sorting float samples: exact, and of a time that is linear in their number. */

const FEW = 2048;
const BITS = 11;
const RADIX = 1 << BITS;
const DIGITS = [0, BITS, 2 * BITS];

/** The digits of keys counted, and made into the places at which each digit begins. */
function beginnings(keys: Uint32Array, shift: number): Uint32Array | null {
  const places = new Uint32Array(RADIX);
  for (let i = 0; i < keys.length; i++) places[(keys[i] >>> shift) & (RADIX - 1)]++;
  let before = 0;
  for (let digit = 0; digit < RADIX; digit++) {
    const count = places[digit];
    // All have this digit in common: nothing is to be moved.
    if (count === keys.length) return null;
    places[digit] = before;
    before += count;
  }
  return places;
}

/**
 * The first `n` values that are numbers, sorted: by the bits of a float (IEEE 754) taken as an integer that grows with it, eleven
 * at a time from the lowest on (radix sort, Seward 1954).
 */
export function sortedPresent(plane: ArrayLike<number>, n = plane.length): Float32Array {
  const present = new Float32Array(n);
  let count = 0;
  for (let i = 0; i < n; i++) {
    const v = plane[i];
    if (v === v) present[count++] = v;
  }
  const values = present.subarray(0, count);
  if (count < FEW) return values.sort();
  let keys = new Uint32Array(present.buffer, 0, count);
  let others = new Uint32Array(count);
  for (let i = 0; i < count; i++) {
    const raw = keys[i];
    keys[i] = raw >>> 31 ? ~raw : raw | 0x80000000;
  }
  for (const shift of DIGITS) {
    const places = beginnings(keys, shift);
    if (!places) continue;
    for (let i = 0; i < count; i++) {
      const key = keys[i];
      others[places[(key >>> shift) & (RADIX - 1)]++] = key;
    }
    [keys, others] = [others, keys];
  }
  for (let i = 0; i < count; i++) {
    const key = keys[i];
    keys[i] = key >>> 31 ? key & 0x7fffffff : ~key;
  }
  return new Float32Array(keys.buffer, 0, count);
}

/** Whole numbers below 65536, sorted by counting them. */
export function sortedCounts(samples: Uint8Array | Uint16Array, first: number, step: number): Float32Array {
  const counts = new Uint32Array(65536);
  let n = 0;
  for (let i = first; i < samples.length; i += step, n++) counts[samples[i]]++;
  const sorted = new Float32Array(n);
  let from = 0;
  for (let value = 0; value < counts.length; value++) {
    const to = from + counts[value];
    if (to > from) sorted.fill(value, from, to);
    from = to;
  }
  return sorted;
}

/** The place of the first of sorted values, from `from` to `to`, that is not below `v`. */
export function lowerBound(sorted: Float32Array, v: number, from = 0, to = sorted.length): number {
  let [low, high] = [from, to];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (sorted[middle] < v) low = middle + 1;
    else high = middle;
  }
  return low;
}
