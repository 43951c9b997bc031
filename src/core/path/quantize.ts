import type { Encoding, Planes } from '../colour';
import { byMatrix } from '../colour/by-matrix';
import { decodePlane, encodePlane } from '../colour/code-planes';
import { encoderOf, matrixInto, spaceOf, type SpaceId } from '../colour/output';
import { intoOwn, isOwn, type OutputSpace } from '../colour/own';
import type { Raster, Rect } from '../raster/raster';
import { eitherWay, inRoom, simd, takeBytes, takePlane } from '../kernels/arena';
import { sharedSamples, type Samples } from '../raster/frame';

export interface Quantizing {
  /** Floats keep values outside 0…1. */
  readonly keepRange?: boolean;
  /** Samples of one channel a pixel: the first plane. */
  readonly grey?: boolean;
  /** Floats stay missing where they are. */
  readonly keepMissing?: boolean;
  /** What the samples are to hold; a linear raster is encoded for coded ones. */
  readonly encoding?: Encoding;
  /** Whose RGB they are to be; sRGB where it is left out. One of an own profile has been made ready, and has no linear values. */
  readonly space?: OutputSpace;
  /** What is lost by rounding to 8 bits is spread by place, so that gradients do not band. */
  readonly dither?: boolean;
}

/** Floats hold what a raster holds. */
export const keptAsItIs = ({ encoding }: Pick<Raster, 'encoding'>): Quantizing => ({
  keepRange: true,
  keepMissing: true,
  encoding
});

/**
 * Writes `raster` into the interleaved `samples` of an image `width` wide, RGB or RGBA: integers are rounded from
 * 0…1 clamped; floats are clamped too, unless `keepRange`. Missing samples become 0, unless `keepMissing`.
 */
export function quantize(raster: Raster, samples: Samples, width: number, quantizing: Quantizing = {}): void {
  const { keepRange = false, keepMissing = false, grey = false, dither = false } = quantizing;
  inRoom(() => {
    const colours = coloursOf(raster, quantizing);
    const planes = !grey && raster.alpha ? [...colours, raster.alpha] : colours;
    if (dither && samples instanceof Uint8Array) return spread(raster, planes, samples, width);
    const kept = { keepRange, keepMissing };
    eitherWay(
      planes,
      (...at) => weave(raster, at, samples, width, kept),
      () => write(raster, planes, samples, width, kept)
    );
  });
}

/** The colours of a raster as they are to be written, before they are rounded. */
export function coloursOf(
  { planes, encoding: from }: Pick<Raster, 'planes' | 'encoding'>,
  { grey, encoding: to = 'coded', space = 'srgb' }: Quantizing
): readonly Float32Array[] {
  if (isOwn(space)) return intoOwn(space, inEncoding(planes, from, 'coded') as Planes, planes[0].length);
  const colours = grey ? planes.slice(0, 1) : planes;
  if (space !== 'srgb') return inSpace(colours, from, to, space);
  return from === 'linear' && to === 'coded' ? inEncoding(colours, from, to) : colours;
}

/** Planes of sRGB in an encoding, to be written to. */
export const inEncoding = (planes: readonly Float32Array[], from: Encoding, to: Encoding): Float32Array[] =>
  planes.map((plane) => {
    const made = takePlane(plane.length);
    if (from === to) made.set(plane);
    else if (to === 'coded') encodePlane(plane, made, plane.length);
    else decodePlane(plane, made, plane.length);
    return made;
  });

/** Planes of sRGB in another space; greys of one are greys of all. */
function inSpace(
  planes: readonly Float32Array[],
  from: Encoding,
  to: Encoding,
  id: SpaceId
): readonly Float32Array[] {
  const space = spaceOf(id);
  const n = planes[0].length;
  const lights = inEncoding(planes, from, 'linear');
  if (lights.length === 3) {
    const [r, g, b] = [0, 3, 6].map((i) => [...matrixInto(space).slice(i, i + 3), 0]);
    byMatrix(lights as unknown as Planes, [r, g, b], lights as unknown as Planes, n);
  }
  if (to === 'linear') return lights;
  if (!space.curve) {
    for (const light of lights) encodePlane(light, light, n);
    return lights;
  }
  const encode = encoderOf(space);
  // Not in the kernels' memory, where what reads single samples is slow.
  return lights.map((light) => light.slice().map(encode));
}

/** Samples that are missing are the same too. */
const differ = (a: number, b: number): boolean => a !== b && (a === a || b === b);

/** Whether the three colours of each pixel are the same, within a part of an image so many pixels wide. */
export function areGreys(samples: Samples, channels: number, part: Rect, width: number): boolean {
  for (let y = part.y; y < part.y + part.height; y++) {
    const from = (y * width + part.x) * channels;
    for (let at = from; at < from + part.width * channels; at += channels)
      if (differ(samples[at], samples[at + 1]) || differ(samples[at], samples[at + 2])) return false;
  }
  return true;
}

/** So much of a step at either end belongs to its whole value, which floats come close to: whole values stay what they are. */
const WHOLE = 1 / 512;

/** A number from 0 to 1 for each place, the same wherever it is asked for and for all channels: greys stay greys. */
function noiseAt(x: number, y: number): number {
  let h = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca77) ^ 0xc2b2ae3d;
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
  return ((h ^ (h >>> 15)) >>> 0) / 2 ** 32;
}

/** Rounds a value of 0…255 up or down by chance, the more likely up the nearer it is to that; by place. */
export const spreadAt = (v: number, x: number, y: number): number =>
  Math.floor(v + WHOLE + (1 - 2 * WHOLE) * noiseAt(x, y));

/** Samples of 16 bits as they are in 8, of pixels of so many channels in rows of so many pixels. */
export function narrowed(samples: Uint16Array, width: number, channels: number, dither: boolean): Uint8Array {
  const out = sharedSamples('u8', samples.length) as Uint8Array;
  for (let i = 0; i < samples.length; i++) {
    const pixel = Math.floor(i / channels);
    const v = samples[i] / 257;
    out[i] = dither ? spreadAt(v, pixel % width, Math.floor(pixel / width)) : v + 0.5;
  }
  return out;
}

function spread(raster: Raster, planes: readonly Float32Array[], samples: Uint8Array, width: number): void {
  planes.forEach((plane, c) => {
    // Not in the kernels' memory, where what reads single samples is slow.
    const values = plane.slice();
    let i = 0;
    for (let y = raster.y; y < raster.y + raster.height; y++) {
      let at = (y * width + raster.x) * planes.length + c;
      for (let x = raster.x; x < raster.x + raster.width; x++, at += planes.length) {
        const v = values[i++];
        samples[at] = v > 0 ? (v < 1 ? spreadAt(v * 255, x, y) : 255) : 0;
      }
    }
  });
}

type Kept = Required<Pick<Quantizing, 'keepRange' | 'keepMissing'>>;

function write(
  raster: Raster,
  planes: readonly Float32Array[],
  samples: Samples,
  width: number,
  { keepRange, keepMissing }: Kept
): void {
  const channels = planes.length;
  const float = samples instanceof Float32Array;
  const max = samples instanceof Uint8Array ? 255 : 65535;
  planes.forEach((plane, c) => {
    let i = 0;
    for (let y = raster.y; y < raster.y + raster.height; y++) {
      let at = (y * width + raster.x) * channels + c;
      for (let x = 0; x < raster.width; x++, at += channels) {
        const v = plane[i++];
        if (float && v !== v) samples[at] = keepMissing ? v : 0;
        else if (float && keepRange) samples[at] = v;
        else {
          const clamped = v > 0 ? (v < 1 ? v : 1) : 0;
          // In floats, as the kernels round, so that both ways give the same sample.
          samples[at] = float ? clamped : Math.fround(Math.fround(clamped * max) + 0.5);
        }
      }
    }
  });
}

/** By the kernels, then row by row to their place. @param at the planes’ addresses */
function weave(
  raster: Raster,
  at: readonly number[],
  samples: Samples,
  width: number,
  { keepRange, keepMissing }: Kept
): void {
  const channels = at.length;
  const size = samples.BYTES_PER_ELEMENT;
  const n = raster.width * raster.height;
  const { address, view } = takeBytes(n * channels * size);
  at.forEach((plane, c) => {
    const to = address + size * c;
    if (size === 1) simd.narrow8(plane, to, n, channels);
    else if (size === 2) simd.narrow16(plane, to, n, channels);
    else simd.weaveFloat(plane, to, n, channels, Number(keepRange), Number(keepMissing));
  });
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  const row = raster.width * channels * size;
  for (let y = 0; y < raster.height; y++) {
    const to = ((raster.y + y) * width + raster.x) * channels * size;
    bytes.set(view.subarray(y * row, (y + 1) * row), to);
  }
}
