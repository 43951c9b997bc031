import { inRoom, takePlane } from '../kernels/arena';
import type { Field } from './field';

/**
 * The à trous transform (Holschneider et al. 1989; Starck & Murtagh 1998): a plane smoothed again and again by a B3 spline whose samples
 * stand 1, 2, 4 … apart; each layer is what one smoothing takes off. The layers and the last smoothing add up to the plane.
 */

/** Of the spline, from the middle outwards. */
const [MIDDLE, NEAR, FAR] = [6 / 16, 4 / 16, 1 / 16];

/** How many samples around one a smoothing with samples `step` apart depends on. */
const smoothingReach = (step: number): number => 2 * step;

/** The same of so many layers. */
export const layersReach = (count: number): number => smoothingReach(2 ** count - 1);

/** σ of a layer of white noise of σ = 1, by the layer, from the finest (worked out from the spline). */
export const layerResponse = (layer: number): number => RESPONSES[layer] ?? RESPONSES[7] / 2 ** (layer - 7);
const RESPONSES = [0.890796, 0.200664, 0.085507, 0.041216, 0.020425, 0.01019, 0.005092, 0.002546];

/** Along rows: the ends of a row stand for what lies beyond them. */
function smoothRows(from: Float32Array, to: Float32Array, width: number, height: number, step: number): void {
  const inner = Math.min(width, 2 * step);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    const last = width - 1;
    const edge = (x: number): number => {
      const [l2, l1] = [Math.max(0, x - 2 * step), Math.max(0, x - step)];
      const [r1, r2] = [Math.min(last, x + step), Math.min(last, x + 2 * step)];
      return (
        MIDDLE * from[row + x] +
        NEAR * (from[row + l1] + from[row + r1]) +
        FAR * (from[row + l2] + from[row + r2])
      );
    };
    for (let x = 0; x < inner; x++) to[row + x] = edge(x);
    const end = row + width - 2 * step;
    for (let i = row + inner; i < end; i++)
      to[i] =
        MIDDLE * from[i] +
        NEAR * (from[i - step] + from[i + step]) +
        FAR * (from[i - 2 * step] + from[i + 2 * step]);
    for (let x = Math.max(inner, width - 2 * step); x < width; x++) to[row + x] = edge(x);
  }
}

/** Down columns, row by row. */
function smoothColumns(
  from: Float32Array,
  to: Float32Array,
  width: number,
  height: number,
  step: number
): void {
  const row = (y: number): number => Math.min(height - 1, Math.max(0, y)) * width;
  for (let y = 0; y < height; y++) {
    const [a, b, c, d, e] = [-2, -1, 0, 1, 2].map((k) => row(y + k * step));
    const at = y * width;
    for (let x = 0; x < width; x++)
      to[at + x] =
        MIDDLE * from[c + x] + NEAR * (from[b + x] + from[d + x]) + FAR * (from[a + x] + from[e + x]);
  }
}

/** Less than this part of the weights is too little to tell a mean from. */
const LEAST_PRESENT = 1e-3;

/**
 * Writes what a B3 spline with its samples `step` apart makes of `source` into `out`, which may be the same. Missing samples take no
 * part: the weights of those that are there are made to sum to 1; a sample with next to nothing around it stays.
 */
export function splineSmooth(source: Float32Array, out: Float32Array, field: Field, step: number): void {
  const { width, height, present } = field;
  const n = width * height;
  inRoom(() => {
    const between = takePlane(n);
    const smooth = (from: Float32Array, to: Float32Array): void => {
      smoothRows(from, between, width, height, step);
      smoothColumns(between, to, width, height, step);
    };
    if (!present) return smooth(source, out);
    const [values, weights] = [takePlane(n), takePlane(n)];
    for (let i = 0; i < n; i++) values[i] = present[i] > 0 ? source[i] : 0;
    smooth(values, values);
    smooth(present, weights);
    for (let i = 0; i < n; i++) out[i] = weights[i] > LEAST_PRESENT ? values[i] / weights[i] : source[i];
  });
}

/**
 * Goes through the layers of a plane, the finest first, and gives what is left after the last.
 * @param use gets a layer, lent while it runs, and its number
 */
export function throughLayers(
  plane: Float32Array,
  field: Field,
  count: number,
  use: (layer: Float32Array, number: number) => void
): Float32Array {
  const n = field.width * field.height;
  const rest = takePlane(n);
  rest.set(plane.subarray(0, n));
  inRoom(() => {
    const smooth = takePlane(n);
    for (let number = 0; number < count; number++) {
      splineSmooth(rest, smooth, field, 2 ** number);
      for (let i = 0; i < n; i++) {
        const v = smooth[i];
        rest[i] -= v;
        smooth[i] = v;
      }
      use(rest.subarray(0, n), number);
      rest.set(smooth.subarray(0, n));
    }
  });
  return rest;
}
