import { eitherWay, inRoom, simd, takePlane } from '../kernels/arena';
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

/** How many layers a picture is taken apart into at most. */
export const MOST_LAYERS = 7;
/** How often the full size was halved. */
export const levelOf = (scale: number): number => Math.max(0, Math.round(-Math.log2(scale)));

/** Rounded after each step, as the kernels do it, so that a sample comes out the same by either way. */
const f = Math.fround;
const splined = (far0: number, near0: number, middle: number, near1: number, far1: number): number =>
  f(f(f(MIDDLE * middle) + f(NEAR * f(near0 + near1))) + f(FAR * f(far0 + far1)));

/** Along rows: the ends of a row stand for what lies beyond them. */
function smoothRows(from: Float32Array, to: Float32Array, width: number, height: number, step: number): void {
  const inner = Math.min(width, 2 * step);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    const last = width - 1;
    const edge = (x: number): number => {
      const [l2, l1] = [Math.max(0, x - 2 * step), Math.max(0, x - step)];
      const [r1, r2] = [Math.min(last, x + step), Math.min(last, x + 2 * step)];
      return splined(from[row + l2], from[row + l1], from[row + x], from[row + r1], from[row + r2]);
    };
    for (let x = 0; x < inner; x++) to[row + x] = edge(x);
    const end = row + width - 2 * step;
    for (let i = row + inner; i < end; i++)
      to[i] = splined(from[i - 2 * step], from[i - step], from[i], from[i + step], from[i + 2 * step]);
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
      to[at + x] = splined(from[a + x], from[b + x], from[c + x], from[d + x], from[e + x]);
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
      eitherWay(
        [from, between],
        (at, into) => simd.splineRows(at, into, width, height, step),
        () => smoothRows(from, between, width, height, step)
      );
      eitherWay(
        [between, to],
        (at, into) => simd.splineColumns(at, into, width, height, step),
        () => smoothColumns(between, to, width, height, step)
      );
    };
    if (!present) return smooth(source, out);
    const [values, weights] = [takePlane(n), takePlane(n)];
    for (let i = 0; i < n; i++) values[i] = present[i] > 0 ? source[i] : 0;
    smooth(values, values);
    smooth(present, weights);
    for (let i = 0; i < n; i++) out[i] = weights[i] > LEAST_PRESENT ? values[i] / weights[i] : source[i];
  });
}

/** Bytes of the kernels' memory in which a plane of so many samples is gone through fast. */
export const layersRoom = (samples: number): number => 4 * 4 * (samples + 4);

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
      eitherWay(
        [rest, smooth],
        (to, from) => simd.addPlane(to, from, n, -1),
        () => {
          for (let i = 0; i < n; i++) rest[i] -= smooth[i];
        }
      );
      use(rest.subarray(0, n), number);
      rest.set(smooth.subarray(0, n));
    }
  });
  return rest;
}

/** Writes a layer, so many times as strong, about 0.5; nothing but that where a plane holds nothing so fine: `number` is below 0 there. */
export function fillLayer(
  plane: Float32Array,
  field: Field,
  number: number,
  times: number,
  out: Float32Array
): void {
  const n = field.width * field.height;
  out.fill(0.5, 0, n);
  if (number < 0) return;
  inRoom(() => {
    throughLayers(plane, field, number + 1, (layer, at) => {
      if (at !== number) return;
      for (let i = 0; i < n; i++) out[i] = 0.5 + times * layer[i];
    });
  });
}
