import { eitherWay, simd, takeBytes } from '../kernels/arena';
import type { Field } from './field';

/** How many samples around one the filter depends on. */
export const guidedReach = (radius: number): number => 2 * Math.round(radius);

/** Statistics are summed in doubles over multiples of this: such sums are exact, in whatever order they are made. */
const QUANTUM = 2 ** 30;
/** Values beyond this count as this in the statistics, so that their sums stay exact. */
const MOST = 16;

/**
 * Guided filter of a plane by itself (He, Sun & Tang 2010): in each window the plane is drawn towards its mean by
 * ε/(variance + ε), so that edges stronger than `tolerance` stay (ε = tolerance²). Windows are squares of
 * 2·`radius` + 1 samples, cut at the edges of `field`; they cost the same at every radius. Only the samples of
 * `field.needed` are written. Missing samples take no part in a window, and no window is laid about one.
 */
export function guidedSmooth(
  plane: Float32Array,
  out: Float32Array,
  field: Field,
  radius: number,
  tolerance: number
): void {
  const { width, height, present } = field;
  const n = width * height;
  const r = Math.round(radius);
  if (r === 0) {
    if (out !== plane) out.set(plane.subarray(0, n));
    return;
  }
  const epsilon = tolerance * tolerance;
  if (present) return guidedPresent(plane, out, field, present, r, epsilon);
  const { x, y, width: nw, height: nh } = field.needed;
  eitherWay(
    [plane, out],
    (from, to) => {
      const { address } = takeBytes(8 * (2 * n + width * (r + 3)));
      simd.guided(from, to, width, height, x, y, nw, nh, r, epsilon, address);
    },
    () => guidedPlainly(plane, out, field, r, epsilon)
  );
}

function guidedPlainly(
  plane: Float32Array,
  out: Float32Array,
  field: Field,
  r: number,
  epsilon: number
): void {
  const { width, height, needed } = field;
  const n = width * height;
  const means = new Float64Array(n);
  const squares = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const v = bounded(plane[i]);
    means[i] = Math.round(v * QUANTUM);
    squares[i] = Math.round(v * v * QUANTUM);
  }
  windowSums(means, width, height, r);
  windowSums(squares, width, height, r);
  for (let y = 0, i = 0; y < height; y++) {
    const rows = Math.min(height - 1, y + r) - Math.max(0, y - r) + 1;
    for (let x = 0; x < width; x++, i++) {
      const columns = (x + r < width ? x + r : width - 1) - (x > r ? x - r : 0) + 1;
      const scale = 1 / (rows * columns * QUANTUM);
      const mean = means[i] * scale;
      const variance = squares[i] * scale - mean * mean;
      const slope = slopeOf(variance, epsilon);
      squares[i] = Math.round(slope * QUANTUM);
      means[i] = Math.round(mean * (1 - slope) * QUANTUM);
    }
  }
  windowSums(squares, width, height, r);
  windowSums(means, width, height, r);
  for (let y = needed.y; y < needed.y + needed.height; y++) {
    const rows = Math.min(height - 1, y + r) - Math.max(0, y - r) + 1;
    for (let x = needed.x, i = y * width + x; x < needed.x + needed.width; x++, i++) {
      const columns = (x + r < width ? x + r : width - 1) - (x > r ? x - r : 0) + 1;
      out[i] = (squares[i] * plane[i] + means[i]) / (rows * columns * QUANTUM);
    }
  }
}

const bounded = (v: number): number => (v > MOST ? MOST : v < -MOST ? -MOST : v);

/** How much of a window's own differences stays. */
const slopeOf = (variance: number, epsilon: number): number =>
  variance > 0 ? variance / (variance + epsilon) : epsilon > 0 ? 0 : 1;

/** The same over the samples that are there, counted in each window. */
function guidedPresent(
  plane: Float32Array,
  out: Float32Array,
  { width, height, needed }: Field,
  present: Float32Array,
  r: number,
  epsilon: number
): void {
  const n = width * height;
  const counts = Float64Array.from(present.subarray(0, n));
  const means = new Float64Array(n);
  const squares = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    if (present[i] === 0) continue;
    const v = bounded(plane[i]);
    means[i] = Math.round(v * QUANTUM);
    squares[i] = Math.round(v * v * QUANTUM);
  }
  for (const sums of [counts, means, squares]) windowSums(sums, width, height, r);
  for (let i = 0; i < n; i++) {
    if (present[i] === 0) {
      means[i] = squares[i] = 0;
      continue;
    }
    const scale = 1 / (counts[i] * QUANTUM);
    const mean = means[i] * scale;
    const slope = slopeOf(squares[i] * scale - mean * mean, epsilon);
    squares[i] = Math.round(slope * QUANTUM);
    means[i] = Math.round(mean * (1 - slope) * QUANTUM);
  }
  windowSums(squares, width, height, r);
  windowSums(means, width, height, r);
  for (let y = needed.y; y < needed.y + needed.height; y++) {
    for (let x = needed.x, i = y * width + x; x < needed.x + needed.width; x++, i++) {
      out[i] = present[i] === 0 ? plane[i] : (squares[i] * plane[i] + means[i]) / (counts[i] * QUANTUM);
    }
  }
}

/** Sums over windows of 2r + 1 both ways, cut at the edges, in place. */
function windowSums(values: Float64Array, width: number, height: number, r: number): void {
  const row = new Float64Array(width);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    for (let x = 0; x < width; x++) row[x] = values[at + x];
    let sum = 0;
    for (let x = 0; x < r && x < width; x++) sum += row[x];
    for (let x = 0; x < width; x++) {
      if (x + r < width) sum += row[x + r];
      if (x > r) sum -= row[x - r - 1];
      values[at + x] = sum;
    }
  }
  // Down the columns: the rows that leave the window are kept until they do.
  const ring = new Float64Array(width * (r + 1));
  const sums = new Float64Array(width);
  for (let y = 0; y < r && y < height; y++) {
    for (let x = 0, at = y * width; x < width; x++, at++) sums[x] += values[at];
  }
  for (let y = 0; y < height; y++) {
    const slot = (y % (r + 1)) * width;
    const at = y * width;
    const enters = (y + r) * width;
    const adds = y + r < height;
    // Row y − r − 1 stands in the slot that row y is about to take.
    const leaves = y > r;
    for (let x = 0; x < width; x++) {
      let sum = sums[x];
      if (adds) sum += values[enters + x];
      if (leaves) sum -= ring[slot + x];
      ring[slot + x] = values[at + x];
      values[at + x] = sum;
      sums[x] = sum;
    }
  }
}
