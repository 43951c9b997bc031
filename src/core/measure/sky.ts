/** The level of an even sky, and how its samples scatter about it. */
export interface Sky {
  readonly level: number;
  readonly sigma: number;
}

/** What the median absolute deviation of normally scattered samples is multiplied by to come to their σ. */
export const MAD_TO_SIGMA = 1.4826;
const ROUNDS = 3;
const CLIPPED_AT = 3;

/** The median of a part of sorted values, between the two in the middle of an even count. */
const middleOf = (sorted: Float32Array, from: number, to: number): number => {
  const half = (from + to - 1) / 2;
  return (sorted[Math.floor(half)] + sorted[Math.ceil(half)]) / 2;
};

/** The median of sorted values and their median absolute deviation from it. */
export function medianAndMad(sorted: Float32Array): { median: number; mad: number } {
  const median = middleOf(sorted, 0, sorted.length);
  return { median, mad: deviationOf(sorted, 0, sorted.length, median) };
}

/** The median absolute deviation of a part of sorted values from their median: what grows outwards on both sides, merged. */
function deviationOf(sorted: Float32Array, from: number, to: number, median: number): number {
  const count = to - from;
  let right = from;
  while (right < to && sorted[right] < median) right++;
  let left = right - 1;
  let [last, before] = [0, 0];
  for (let k = 0; k <= count >> 1; k++) {
    const below = left >= from ? median - sorted[left] : Infinity;
    const above = right < to ? sorted[right] - median : Infinity;
    before = last;
    if (below <= above) {
      last = below;
      left--;
    } else {
      last = above;
      right++;
    }
  }
  return count % 2 === 1 ? last : (before + last) / 2;
}

/**
 * The sky under stars and whatever else is brighter than it: median and σ = 1.4826 MAD of the samples that are left after three
 * rounds of leaving out what is further than 3 σ from the median. Missing samples take no part; 0 where none is there.
 */
export function skyOf(plane: Float32Array, n = plane.length): Sky {
  const sorted = plane.slice(0, n);
  let count = 0;
  for (let i = 0; i < n; i++) if (sorted[i] === sorted[i]) sorted[count++] = sorted[i];
  if (count === 0) return { level: 0, sigma: 0 };
  sorted.subarray(0, count).sort();
  let [from, to] = [0, count];
  for (let round = 0; ; round++) {
    const median = middleOf(sorted, from, to);
    const sigma = MAD_TO_SIGMA * deviationOf(sorted, from, to, median);
    if (round === ROUNDS) return { level: median, sigma };
    while (median - sorted[from] > CLIPPED_AT * sigma) from++;
    while (sorted[to - 1] - median > CLIPPED_AT * sigma) to--;
  }
}
