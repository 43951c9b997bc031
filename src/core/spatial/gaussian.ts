import type { Field } from './field';
import { eitherWay, inRoom, simd, takePlane, takeTable } from '../kernels/arena';

/** A Gaussian narrower than this, in samples, changes nothing that can be seen: its neighbours weigh below 1e-5. */
const NARROWEST = 0.21;
/** Up to this sigma a Gaussian is convolved as it stands; a wider one is split, see `wideBlur`. */
const WIDEST_DIRECT = 7;
/** How many sigmas of a Gaussian are summed: what is left out is 6e-5 of it. */
const SIGMAS = 4;

const halfWidth = (sigma: number): number => Math.ceil(SIGMAS * sigma);

/** The spacing of the coarse grid for a wide Gaussian. */
const spacingFor = (sigma: number): number => Math.max(1, Math.floor(sigma / 3.2));
const coarseSigma = (sigma: number, spacing: number): number =>
  Math.sqrt(sigma * sigma - 2 * spacing * spacing) / spacing;

/** How many samples around one a Gaussian of `sigma` samples depends on. */
export function gaussianReach(sigma: number): number {
  if (sigma < NARROWEST) return 0;
  if (sigma <= WIDEST_DIRECT) return halfWidth(sigma);
  const d = spacingFor(sigma);
  return 2 * halfWidth(d) + d * (halfWidth(coarseSigma(sigma, d)) + 1);
}

/** Weights of a Gaussian from −h to h, summing to 1. */
function gaussianWeights(sigma: number): Float32Array {
  const h = halfWidth(sigma);
  const weights = Float64Array.from({ length: 2 * h + 1 }, (_, i) => Math.exp(-0.5 * ((i - h) / sigma) ** 2));
  const sum = weights.reduce((a, b) => a + b, 0);
  return Float32Array.from(weights, (w) => w / sum);
}

/**
 * Writes the Gaussian blur of `source` (width×height, row by row) into `out`; the edge samples stand for what lies
 * beyond the rectangle. `sigma` in samples. The result at a place does not depend on how the picture is cut, as far as
 * `gaussianReach` from the cut. The two may be the same array. Only the samples of
 * `field.needed` are sure to be written. Missing samples take no part: the weights of those that are there are made to
 * sum to 1 (normalized convolution, Knutsson & Westin 1993); a sample with next to nothing around it stays.
 */
export function gaussianBlur(source: Float32Array, out: Float32Array, field: Field, sigma: number): void {
  const n = field.width * field.height;
  if (sigma < NARROWEST) {
    if (out !== source) out.set(source.subarray(0, n));
  } else if (field.present) blurPresent(source, out, field, field.present, sigma);
  else if (sigma <= WIDEST_DIRECT) {
    const weights = gaussianWeights(sigma);
    inRoom(() => {
      const between = takePlane(n);
      convolveRows(source, between, field.width, field.height, weights);
      convolveColumns(between, out, field.width, field.height, weights);
    });
  } else wideBlur(source, out, field, sigma);
}

/** Less than this part of the weights is too little to tell a mean from. */
const LEAST_PRESENT = 1e-3;

function blurPresent(
  source: Float32Array,
  out: Float32Array,
  { present: _, ...field }: Field,
  present: Float32Array,
  sigma: number
): void {
  const n = field.width * field.height;
  inRoom(() => {
    const values = takePlane(n);
    const weights = takePlane(n);
    for (let i = 0; i < n; i++) values[i] = present[i] > 0 ? source[i] : 0;
    gaussianBlur(values, values, field, sigma);
    gaussianBlur(present, weights, field, sigma);
    for (let i = 0; i < n; i++) out[i] = weights[i] > LEAST_PRESENT ? values[i] / weights[i] : source[i];
  });
}

/** Convolves each row with symmetric `weights`; the ends of a row stand for what lies beyond them. */
export function convolveRows(
  source: Float32Array,
  out: Float32Array,
  width: number,
  height: number,
  weights: Float32Array
): void {
  eitherWay(
    [source, out],
    (from, to) => simd.convolveRows(from, to, width, height, takeTable(weights), weights.length),
    () => rowsPlainly(source, out, width, height, weights)
  );
}

function rowsPlainly(
  source: Float32Array,
  out: Float32Array,
  width: number,
  height: number,
  weights: Float32Array
): void {
  const h = (weights.length - 1) >> 1;
  const row = new Float32Array(width + 2 * h);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    row.fill(source[at], 0, h);
    row.set(source.subarray(at, at + width), h);
    row.fill(source[at + width - 1], h + width);
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let k = 0; k <= 2 * h; k++) sum = Math.fround(sum + Math.fround(weights[k] * row[x + k]));
      out[at + x] = sum;
    }
  }
}

/** The same down the columns. `out` must not be `source`. */
export function convolveColumns(
  source: Float32Array,
  out: Float32Array,
  width: number,
  height: number,
  weights: Float32Array
): void {
  eitherWay(
    [source, out],
    (from, to) => simd.convolveColumns(from, to, width, height, takeTable(weights), weights.length),
    () => columnsPlainly(source, out, width, height, weights)
  );
}

function columnsPlainly(
  source: Float32Array,
  out: Float32Array,
  width: number,
  height: number,
  weights: Float32Array
): void {
  const h = (weights.length - 1) >> 1;
  for (let y = 0; y < height; y++) {
    const to = out.subarray(y * width, (y + 1) * width).fill(0);
    for (let k = -h; k <= h; k++) {
      const from = Math.min(height - 1, Math.max(0, y + k)) * width;
      const w = weights[k + h];
      for (let x = 0; x < width; x++) to[x] += Math.fround(w * source[from + x]);
    }
  }
}

/**
 * A Gaussian of a wide sigma as three: one of `d` samples, read at every d-th place of the level; one on that coarse
 * grid; one of `d` samples that leads back. Variances add, and a Gaussian as wide as the grid's spacing keeps out all
 * but 3e-9 of what the grid can't carry, so the whole is the Gaussian within 1e-4 at a cost that does not grow.
 */
function wideBlur(source: Float32Array, out: Float32Array, field: Field, sigma: number): void {
  const d = spacingFor(sigma);
  const pre = gaussianWeights(d);
  const coarse = gaussianWeights(coarseSigma(sigma, d));
  const { x, y, width, height } = field;
  // The grid goes far enough beyond the rectangle that its ends are like the edge samples.
  const beyond = halfWidth(d) + d * ((coarse.length - 1) / 2) + d;
  const columns = grid(x, width, d, beyond);
  const rows = grid(y, height, d, beyond);
  const narrow = new Float32Array(columns.length * height);
  shrinkRows(source, narrow, width, height, x, columns, d, pre);
  const small = new Float32Array(columns.length * rows.length);
  shrinkColumns(narrow, small, columns.length, height, y, rows, pre);
  const blurred = new Float32Array(small.length);
  convolveRows(small, blurred, columns.length, rows.length, coarse);
  convolveColumns(blurred, small, columns.length, rows.length, coarse);
  const { needed } = field;
  const down = phases(y + needed.y, needed.height, rows, d);
  const across = phases(x + needed.x, needed.width, columns, d);
  const line = new Float32Array(columns.length);
  const count = columns.length;
  for (let v = 0; v < needed.height; v++) {
    line.fill(0);
    const { first, weights } = down[v];
    for (let k = 0; k < weights.length; k++) {
      const from = (first + k) * count;
      const w = weights[k];
      for (let u = 0; u < count; u++) line[u] += w * small[from + u];
    }
    const to = (needed.y + v) * width + needed.x;
    for (let u = 0; u < needed.width; u++) {
      const phase = across[u];
      const taps = phase.weights;
      let sum = 0;
      for (let k = 0, at = phase.first; k < taps.length; k++, at++) sum += taps[k] * line[at];
      out[to + u] = sum;
    }
  }
}

/** Places of the level that are multiples of `d`, over a length grown by `beyond` at both ends. */
function grid(from: number, length: number, d: number, beyond: number): number[] {
  const first = Math.floor((from - beyond) / d);
  const last = Math.ceil((from + length - 1 + beyond) / d);
  return Array.from({ length: last - first + 1 }, (_, i) => (first + i) * d);
}

function shrinkRows(
  source: Float32Array,
  out: Float32Array,
  width: number,
  height: number,
  x0: number,
  columns: readonly number[],
  d: number,
  weights: Float32Array
): void {
  const h = (weights.length - 1) >> 1;
  const count = columns.length;
  // Weights in whole groups of four; the row with its ends drawn out, so that no tap has to be checked.
  const taps = Math.ceil(weights.length / GROUP) * GROUP;
  const lead = Math.max(0, x0 - columns[0] + h);
  const tail = Math.max(0, columns[count - 1] - x0 + h - width + 1) + taps;
  inRoom(() => {
    const filled = takePlane(taps).fill(0);
    filled.set(weights);
    const row = takePlane(lead + width + tail);
    const line = takePlane(count);
    const first = columns[0] - x0 + lead - h;
    for (let y = 0; y < height; y++) {
      const from = y * width;
      row.fill(source[from], 0, lead);
      row.set(source.subarray(from, from + width), lead);
      row.fill(source[from + width - 1], lead + width);
      eitherWay(
        [row, line, filled],
        (at, to, by) => simd.shrinkRow(at, to, first, d, count, by, taps),
        () => shrinkRow(row, line, first, d, count, filled)
      );
      out.set(line.subarray(0, count), y * count);
    }
  });
}

const GROUP = 4;

/** One row of the coarse grid, summed as the kernel of the arena sums: four partial sums, in floats. */
function shrinkRow(
  row: Float32Array,
  line: Float32Array,
  first: number,
  d: number,
  count: number,
  weights: Float32Array
): void {
  const { fround } = Math;
  const parts = new Float32Array(GROUP);
  for (let i = 0; i < count; i++) {
    const at = first + i * d;
    parts.fill(0);
    for (let k = 0; k < weights.length; k++) parts[k % GROUP] += fround(weights[k] * row[at + k]);
    line[i] = fround(fround(parts[0] + parts[1]) + fround(parts[2] + parts[3]));
  }
}

function shrinkColumns(
  source: Float32Array,
  out: Float32Array,
  width: number,
  height: number,
  y0: number,
  rows: readonly number[],
  weights: Float32Array
): void {
  const h = (weights.length - 1) >> 1;
  rows.forEach((place, i) => {
    const to = out.subarray(i * width, (i + 1) * width);
    for (let k = -h; k <= h; k++) {
      const from = Math.min(height - 1, Math.max(0, place - y0 + k)) * width;
      const w = weights[k + h];
      for (let x = 0; x < width; x++) to[x] += w * source[from + x];
    }
  });
}

/** For each sample of a length, the grid places that it is made of, by a Gaussian of the grid's spacing. */
function phases(
  from: number,
  length: number,
  places: readonly number[],
  d: number
): { first: number; weights: Float32Array }[] {
  const h = halfWidth(d);
  const kinds = new Map<number, Float32Array>();
  return Array.from({ length }, (_, i) => {
    const at = from + i;
    const lowest = Math.ceil((at - h) / d) * d;
    const phase = at - lowest;
    let weights = kinds.get(phase);
    if (!weights) {
      const count = Math.floor((at + h - lowest) / d) + 1;
      const raw = Float64Array.from({ length: count }, (_, k) =>
        Math.exp(-0.5 * ((lowest + k * d - at) / d) ** 2)
      );
      const sum = raw.reduce((a, b) => a + b, 0);
      weights = Float32Array.from(raw, (w) => w / sum);
      kinds.set(phase, weights);
    }
    return { first: (lowest - places[0]) / d, weights };
  });
}
