import { FEW, orderedPresent, type Ordered } from './order';

/** The level of an even sky, and how its samples scatter about it. */
export interface Sky {
  readonly level: number;
  readonly sigma: number;
}

/** What the median absolute deviation of normally scattered samples is multiplied by to come to their σ. */
export const MAD_TO_SIGMA = 1.4826;
const ROUNDS = 3;
const CLIPPED_AT = 3;

/** The median of those of the samples that stand from `from` to `to`, between the two in the middle of an even count. */
const middleOf = (samples: Ordered, from: number, to: number): number => {
  const half = (from + to - 1) / 2;
  return (samples.at(Math.floor(half)) + samples.at(Math.ceil(half))) / 2;
};

/** The median of numbers; 0 of none. */
export function medianOf(values: ArrayLike<number>): number {
  if (values.length > 0 && values.length <= FEW) {
    // Missing ones come last, as in the other way.
    const sorted = new Float32Array(values).sort();
    const half = (values.length - 1) / 2;
    return (sorted[Math.floor(half)] + sorted[Math.ceil(half)]) / 2;
  }
  return values.length === 0 ? 0 : middleOf(orderedPresent(Float32Array.from(values)), 0, values.length);
}

/** The median of samples and their median absolute deviation from it. */
export function medianAndMad(samples: Ordered): { median: number; mad: number } {
  const median = middleOf(samples, 0, samples.length);
  return { median, mad: deviationOf(samples, 0, samples.length, median) };
}

/**
 * The median absolute deviation of those of the samples that stand from `from` to `to` from their median: deviations grow outwards on
 * both sides, and the one in the middle of both together is found by halving.
 */
function deviationOf(samples: Ordered, from: number, to: number, median: number): number {
  const middle = Math.min(to, Math.max(from, samples.below(median)));
  const [left, right] = [middle - from, to - middle];
  /** Whether the one on the left lies nearer than the one on the right: looked at closely only where both may. */
  const nearer = (one: number, other: number): boolean => {
    const [a, b] = [samples.about(one), samples.about(other)];
    if (median - a[0] < b[0] - median) return true;
    if (median - a[1] >= b[1] - median) return false;
    return median - samples.at(one) < samples.at(other) - median;
  };
  /** The deviation before which `rank` others stand. */
  const ofRank = (rank: number): number => {
    // So many of the smallest are on the left.
    let [low, high] = [Math.max(0, rank + 1 - right), Math.min(rank + 1, left)];
    while (low < high) {
      const half = (low + high) >> 1;
      if (nearer(middle - 1 - half, middle + rank - half)) low = half + 1;
      else high = half;
    }
    const below = low > 0 ? median - samples.at(middle - low) : 0;
    const above = low <= rank ? samples.at(middle + rank - low) - median : 0;
    return Math.max(below, above);
  };
  const half = (to - from - 1) / 2;
  return (ofRank(Math.floor(half)) + ofRank(Math.ceil(half))) / 2;
}

/**
 * The sky under stars and whatever else is brighter than it: median and σ = 1.4826 MAD of the samples that are left after three
 * rounds of leaving out what is further than 3 σ from the median. Missing samples take no part; 0 where none is there.
 */
export const skyOf = (plane: Float32Array, n = plane.length): Sky => skyOfOrdered(orderedPresent(plane, n));

/** The same of samples in order. */
export function skyOfOrdered(samples: Ordered): Sky {
  let [from, to] = [0, samples.length];
  if (to === 0) return { level: 0, sigma: 0 };
  for (let round = 0; ; round++) {
    const median = middleOf(samples, from, to);
    const sigma = MAD_TO_SIGMA * deviationOf(samples, from, to, median);
    if (round === ROUNDS) return { level: median, sigma };
    from = Math.max(from, samples.below(median - CLIPPED_AT * sigma));
    to = Math.min(to, samples.below(median + CLIPPED_AT * sigma, true));
  }
}
