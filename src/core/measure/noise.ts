/**
 * The noise of a plane: σ of its finest à trous layer (Starck & Murtagh 1998, B3 spline), k-sigma clipped, divided by what that
 * layer makes of white noise of σ = 1. Structure lies in the coarser layers, so that it counts for little.
 */

import type { Rect } from '../raster/raster';

/** What the finest layer in two dimensions makes of white noise of σ = 1. */
export const RESPONSE = 0.8908;
const CLIPPED_AT = 3;
const MOST_ROUNDS = 30;
const [EDGE, NEAR, MIDDLE] = [1 / 16, 4 / 16, 6 / 16];

/** Row by row: a function that is called often is translated better than a loop that is long. */
function acrossRow(plane: Float32Array, out: Float32Array, from: number, to: number): void {
  const [edge, near, middle] = [EDGE, NEAR, MIDDLE];
  for (let i = from; i < to; i++)
    out[i] = edge * (plane[i - 2] + plane[i + 2]) + near * (plane[i - 1] + plane[i + 1]) + middle * plane[i];
}
function downRow(
  plane: Float32Array,
  across: Float32Array,
  out: Float32Array,
  from: number,
  width: number
): void {
  const [edge, near, middle] = [EDGE, NEAR, MIDDLE];
  const two = 2 * width;
  for (let i = from; i < from + width; i++)
    out[i] =
      plane[i] -
      (edge * (across[i - two] + across[i + two]) +
        near * (across[i - width] + across[i + width]) +
        middle * across[i]);
}

/** The finest layer: what a B3 spline takes off; missing where one of its twenty-five samples is, and at the border. */
export function finestLayer(plane: Float32Array, width: number, height: number): Float32Array {
  const across = new Float32Array(width * height).fill(Number.NaN);
  for (let y = 0; y < height; y++) acrossRow(plane, across, y * width + 2, (y + 1) * width - 2);
  const out = new Float32Array(width * height).fill(Number.NaN);
  for (let y = 2; y < height - 2; y++) downRow(plane, across, out, y * width, width);
  return out;
}

/** σ of white noise that a plane holds; 0 where it is too small to tell. Missing samples take no part. */
export function noiseOf(plane: Float32Array, width: number, height: number): number {
  if (width < 5 || height < 5) return 0;
  return clippedSigma(finestLayer(plane, width, height)) / RESPONSE;
}

/** Samples by which the noise of a large plane is told: to a thousandth. */
const ENOUGH = 2 ** 21;
const BAND = 64;

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** Parts by which the noise of a picture is told: all of a small one, bands so `tall` that are spread over the height of a large one. */
export function noiseBands({ width, height }: Size, tall = BAND): Rect[] {
  const bands = Math.max(1, Math.ceil(ENOUGH / (width * tall)));
  if (width < 5 || bands * tall >= height) return [{ x: 0, y: 0, width, height }];
  return Array.from({ length: bands }, (_, k) => {
    const y = Math.floor((k * (height - tall)) / Math.max(1, bands - 1));
    return { x: 0, y, width, height: tall };
  });
}

/** The same of planes of any size that are read part by part. Yields how much of it is done. */
export function* noiseOfPlanes(
  size: Size,
  read: (rect: Rect) => readonly Float32Array[]
): Generator<number, number[], void> {
  const bands = noiseBands(size);
  const [{ width, height }] = bands;
  if (bands.length === 1) return read(bands[0]).map((plane) => noiseOf(plane, width, height));
  const inner = (height - 4) * width;
  const layers: Float32Array[] = [];
  for (const [k, rect] of bands.entries()) {
    read(rect).forEach((plane, c) => {
      layers[c] ??= new Float32Array(bands.length * inner);
      // Its first and last two rows say nothing.
      layers[c].set(finestLayer(plane, width, height).subarray(2 * width, 2 * width + inner), k * inner);
    });
    yield (k + 1) / bands.length;
  }
  return layers.map((layer) => clippedSigma(layer) / RESPONSE);
}

/** The same of one plane. @param read gives its samples from one to another */
export function noiseOfWhole(
  read: (from: number, to: number) => Float32Array,
  width: number,
  height: number
): number {
  const looking = noiseOfPlanes({ width, height }, ({ y, height: rows }) => [
    read(y * width, (y + rows) * width)
  ]);
  for (;;) {
    const { done, value } = looking.next();
    if (done) return value[0];
  }
}

/** The standard deviation about 0 of what lies within 3 of it, until that settles. */
export function clippedSigma(layer: Float32Array): number {
  let most = Infinity;
  let sigma = 0;
  let before = -1;
  /** Of what was looked at last: all that lies under `floor` together, and what lies between it and the bound of then. */
  let floor = Infinity;
  let within = { sum: 0, count: 0 };
  const tail = new Float32Array(layer.length);
  let long = 0;
  for (let round = 0; round < MOST_ROUNDS; round++) {
    if (most < floor || round === 0) {
      floor = SURE * most;
      let [sum, count] = [0, 0];
      long = 0;
      for (let i = 0; i < layer.length; i++) {
        const v = layer[i];
        const size = Math.abs(v);
        if (size < floor) {
          sum += v * v;
          count++;
        } else if (size <= most) tail[long++] = v;
      }
      within = { sum, count };
    }
    let { sum, count } = within;
    for (let i = 0; i < long; i++) {
      const v = tail[i];
      if (Math.abs(v) > most) continue;
      sum += v * v;
      count++;
    }
    if (count === before) break;
    before = count;
    if (count === 0) return 0;
    sigma = Math.sqrt(sum / count);
    most = CLIPPED_AT * sigma;
  }
  return sigma;
}
/** A round takes the bound in by less than to this part of it, once nothing but noise is left. */
const SURE = 0.7;
