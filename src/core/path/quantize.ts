import type { Encoding } from '../colour';
import { encodePlane } from '../colour/code-planes';
import type { Raster } from '../raster/raster';
import { closeArena, inArena, openArena, simd, takeBytes, takePlane } from '../kernels/arena';
import type { Samples } from '../raster/frame';

export interface Quantizing {
  /** Floats keep values outside 0…1. */
  readonly keepRange?: boolean;
  /** Samples of one channel a pixel: the first plane. */
  readonly grey?: boolean;
  /** What the samples are to hold; a linear raster is encoded for coded ones. */
  readonly encoding?: Encoding;
}

/**
 * Writes `raster` into the interleaved `samples` of an image `width` wide, RGB or RGBA: integers are rounded from
 * 0…1 clamped; floats are clamped too, unless `keepRange`. Missing samples become 0.
 */
export function quantize(
  raster: Raster,
  samples: Samples,
  width: number,
  { keepRange = false, grey = false, encoding = 'coded' }: Quantizing = {}
): void {
  const mark = openArena(0);
  const colours = grey ? raster.planes.slice(0, 1) : raster.planes;
  const encoded = raster.encoding === 'linear' && encoding === 'coded' ? colours.map(coded) : colours;
  write(raster, !grey && raster.alpha ? [...encoded, raster.alpha] : encoded, samples, width, keepRange);
  closeArena(mark);
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
  keepRange: boolean
): void {
  const channels = planes.length;
  if (quantizeFast(raster, planes, samples, width)) return;
  const float = samples instanceof Float32Array;
  const max = samples instanceof Uint8Array ? 255 : 65535;
  planes.forEach((plane, c) => {
    let i = 0;
    for (let y = raster.y; y < raster.y + raster.height; y++) {
      let at = (y * width + raster.x) * channels + c;
      for (let x = 0; x < raster.width; x++, at += channels) {
        const v = plane[i++];
        if (float && keepRange) samples[at] = v === v ? v : 0;
        else {
          const clamped = v > 0 ? (v < 1 ? v : 1) : 0;
          // In floats, as the kernels round, so that both ways give the same sample.
          samples[at] = float ? clamped : Math.fround(Math.fround(clamped * max) + 0.5);
        }
      }
    }
  });
}

/** Integers by the kernels, then row by row to their place; false where that can't be done. */
function quantizeFast(
  raster: Raster,
  planes: readonly Float32Array[],
  samples: Samples,
  width: number
): boolean {
  if (samples instanceof Float32Array || !inArena(planes)) return false;
  const mark = openArena(0);
  const channels = planes.length;
  const size = samples.BYTES_PER_ELEMENT;
  const n = raster.width * raster.height;
  const room = takeBytes(n * channels * size);
  if (room) {
    planes.forEach(({ byteOffset }, c) => {
      if (size === 1) simd.narrow8(byteOffset, room.address + c, n, channels);
      else simd.narrow16(byteOffset, room.address + 2 * c, n, channels);
    });
    const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
    const row = raster.width * channels * size;
    for (let y = 0; y < raster.height; y++) {
      const to = ((raster.y + y) * width + raster.x) * channels * size;
      bytes.set(room.view.subarray(y * row, (y + 1) * row), to);
    }
  }
  closeArena(mark);
  return room !== null;
}
