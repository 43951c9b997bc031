/** Counts of a plane's values over even bins. */
export interface Histogram {
  readonly low: number;
  readonly high: number;
  readonly counts: Float64Array;
  /** Values below `low` and above `high`; they are counted in the first and last bin as well. */
  readonly below: number;
  readonly above: number;
  /** All values that are numbers. */
  readonly total: number;
}

/** The histogram of the first `n` values over `bins` even bins from `low` to `high`; missing values take no part. */
export function histogram(plane: Float32Array, n: number, bins: number, low = 0, high = 1): Histogram {
  const none = { low, high, counts: new Float64Array(bins), below: 0, above: 0, total: 0 };
  return counted(none, plane, n);
}

/** A histogram with the first `n` values of a further plane counted in as well; its counts are changed in place. */
export function counted(so: Histogram, plane: Float32Array, n: number): Histogram {
  const { low, high, counts } = so;
  let { below, above, total } = so;
  const bins = counts.length;
  const scale = bins / (high - low);
  for (let i = 0; i < n; i++) {
    const v = plane[i];
    if (v !== v) continue;
    total++;
    if (v < low) below++;
    else if (v > high) above++;
    const bin = (v - low) * scale;
    counts[bin < 0 ? 0 : bin >= bins ? bins - 1 : bin | 0]++;
  }
  return { low, high, counts, below, above, total };
}

/** What two histograms over the same bins count together. */
export const addedUp = (one: Histogram, other: Histogram): Histogram => ({
  low: one.low,
  high: one.high,
  counts: one.counts.map((count, bin) => count + other.counts[bin]),
  below: one.below + other.below,
  above: one.above + other.above,
  total: one.total + other.total
});

/** The arithmetic mean of the first `n` values that are numbers; 0 where there is none. */
export function meanOf(plane: Float32Array, n: number): number {
  let sum = 0;
  let count = 0;
  for (let i = 0; i < n; i++) {
    if (plane[i] !== plane[i]) continue;
    sum += plane[i];
    count++;
  }
  return count ? sum / count : 0;
}

/** How many samples are at 0 or below, and at 1 or above; missing ones are neither. */
export function clippedCounts(values: Float32Array): { readonly low: number; readonly high: number } {
  let [low, high] = [0, 0];
  for (let i = 0; i < values.length; i++) {
    const v = values[i];
    if (v <= 0) low++;
    else if (v >= 1) high++;
  }
  return { low, high };
}
