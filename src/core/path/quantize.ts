import type { Encoding } from '../colour';
import { encodePlane } from '../colour/code-planes';
import type { Raster } from '../raster/raster';
import { eitherWay, inRoom, simd, takeBytes, takePlane } from '../kernels/arena';
import type { Samples } from '../raster/frame';

export interface Quantizing {
  /** Floats keep values outside 0…1. */
  readonly keepRange?: boolean;
  /** Samples of one channel a pixel: the first plane. */
  readonly grey?: boolean;
  /** Floats stay missing where they are. */
  readonly keepMissing?: boolean;
  /** What the samples are to hold; a linear raster is encoded for coded ones. */
  readonly encoding?: Encoding;
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
export function quantize(
  raster: Raster,
  samples: Samples,
  width: number,
  { keepRange = false, keepMissing = false, grey = false, encoding = 'coded' }: Quantizing = {}
): void {
  inRoom(() => {
    const colours = grey ? raster.planes.slice(0, 1) : raster.planes;
    const encoded = raster.encoding === 'linear' && encoding === 'coded' ? colours.map(coded) : colours;
    const planes = !grey && raster.alpha ? [...encoded, raster.alpha] : encoded;
    const plainly = (): void => write(raster, planes, samples, width, { keepRange, keepMissing });
    if (samples instanceof Float32Array) plainly();
    else eitherWay(planes, (...at) => writeIntegers(raster, at, samples, width), plainly);
  });
}

function coded(plane: Float32Array): Float32Array {
  const out = takePlane(plane.length);
  encodePlane(plane, out, plane.length);
  return out;
}

function write(
  raster: Raster,
  planes: readonly Float32Array[],
  samples: Samples,
  width: number,
  { keepRange, keepMissing }: { keepRange: boolean; keepMissing: boolean }
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

/** Integers by the kernels, then row by row to their place. @param at the planes’ addresses */
function writeIntegers(
  raster: Raster,
  at: readonly number[],
  samples: Uint8Array | Uint16Array,
  width: number
): void {
  const channels = at.length;
  const size = samples.BYTES_PER_ELEMENT;
  const n = raster.width * raster.height;
  const { address, view } = takeBytes(n * channels * size);
  at.forEach((plane, c) => {
    if (size === 1) simd.narrow8(plane, address + c, n, channels);
    else simd.narrow16(plane, address + 2 * c, n, channels);
  });
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  const row = raster.width * channels * size;
  for (let y = 0; y < raster.height; y++) {
    const to = ((raster.y + y) * width + raster.x) * channels * size;
    bytes.set(view.subarray(y * row, (y + 1) * row), to);
  }
}
