import { channelOf, fillChannel, fillPresent } from '../colour';
import { encodePlane } from '../colour/code-planes';
import { eitherWay, inRoom, simd, takeBytes, takePlane } from '../kernels/arena';
import type { Raster } from '../raster/raster';
import { lifted, type Lift } from './lift';

/**
 * What of a picture is shown: its colours, one channel as a grey photograph, or where the listed channels are clipped
 * (at their low end, their high end or both), hatched over the picture drained to dim grey.
 */
export type View = 'colour' | { readonly channel: string } | Clipping;
export interface Clipping {
  readonly clipped: readonly string[];
  readonly ends: 'low' | 'high' | 'both';
}

/**
 * The raster as 8-bit RGBA for the screen: clamped, missing samples black, ink as it lies on paper; a linear one is encoded,
 * and so are its channels that are amounts of light. Where it is lifted, it and its channels are those of the picture that is seen.
 */
export const screenPixels = (raster: Raster, view: View): Uint8ClampedArray<ArrayBuffer> =>
  withScreenPixels(raster, view, (pixels) => pixels.slice());

/** The same, lent while `use` runs: nothing is allocated for it. */
export function withScreenPixels<T>(
  raster: Raster,
  view: View,
  use: (pixels: Uint8ClampedArray<ArrayBuffer>) => T,
  lift: Lift | null = null
): T {
  const n = raster.width * raster.height;
  return inRoom(() => {
    const seen = lift ? lifted(raster, lift) : raster;
    const planes =
      view === 'colour'
        ? colourPlanes(seen, n)
        : 'channel' in view
          ? channelPlanes(seen, view.channel, n)
          : clippedPlanes(raster, seen, view, n);
    const { alpha } = raster;
    return eitherWay(
      alpha ? [...planes, alpha] : planes,
      (red, green, blue, over = 0) => {
        const { address, view: room } = takeBytes(4 * n);
        simd.screen(red, green, blue, over, address, n);
        return use(new Uint8ClampedArray(room.buffer, address, 4 * n));
      },
      () => {
        const pixels = new Uint8ClampedArray(4 * n);
        fillPixels(planes, alpha, pixels, n);
        return use(pixels);
      }
    );
  });
}

function fillPixels(
  [red, green, blue]: readonly Float32Array[],
  alpha: Float32Array | null,
  pixels: Uint8ClampedArray,
  n: number
): void {
  for (let i = 0, at = 0; i < n; i++, at += 4) {
    pixels[at] = eightBit(red[i]);
    pixels[at + 1] = eightBit(green[i]);
    pixels[at + 2] = eightBit(blue[i]);
    pixels[at + 3] = alpha ? eightBit(alpha[i]) : 255;
  }
}

/** The nearest of 0…255 to a value of 0…1, as the export rounds. */
const eightBit = (v: number): number =>
  v > 0 ? (v < 1 ? Math.floor(Math.fround(Math.fround(v * 255) + 0.5)) : 255) : 0;

function colourPlanes({ planes, encoding }: Raster, n: number): readonly Float32Array[] {
  if (encoding === 'coded') return planes;
  return planes.map((plane) => {
    const coded = takePlane(n);
    encodePlane(plane, coded, n);
    return coded;
  });
}

function channelPlanes({ planes, encoding }: Raster, id: string, n: number): Float32Array[] {
  const plane = takePlane(n);
  const { ink, light } = channelOf(id);
  fillPresent([id], planes, encoding, [plane], n);
  if (ink) for (let i = 0; i < n; i++) plane[i] = 1 - plane[i];
  if (light && encoding === 'linear') encodePlane(plane, plane, n);
  return [plane, plane, plane];
}

/** Stored values closer to an end than this count as clipped: half a step of 16 bit. */
const AT_END = 0.5 / 65535;
const HATCH = 4;
const DIM = 0.3;

/** White hatch where a sample is clipped high, dark hatch low, over the picture's lightness drained to dim grey. */
function clippedPlanes(raster: Raster, seen: Raster, { clipped, ends }: Clipping, n: number): Float32Array[] {
  const grey = takePlane(n);
  fillChannel('lum', seen.planes, seen.encoding, grey, n);
  if (seen.encoding === 'linear') encodePlane(grey, grey, n);
  const out = takePlane(n);
  for (let i = 0; i < n; i++) out[i] = 0.12 + DIM * Math.min(1, Math.max(0, grey[i]));
  const values = clipped.map(() => takePlane(n));
  fillPresent(clipped, raster.planes, raster.encoding, values, n);
  for (const plane of values) {
    for (let i = 0; i < n; i++) {
      const low = ends !== 'high' && plane[i] <= AT_END;
      const high = ends !== 'low' && plane[i] >= 1 - AT_END;
      if (!low && !high) continue;
      const x = raster.x + (i % raster.width);
      const y = raster.y + Math.floor(i / raster.width);
      const line = (x + y) % (2 * HATCH) < HATCH;
      out[i] = high ? (line ? 1 : 0.75) : line ? 0 : 0.85;
    }
  }
  return [out, out, out];
}
