import type { Raster } from '../raster/raster';
import type { Samples } from '../raster/frame';

/**
 * Writes `raster` into the interleaved `samples` of an image `width` wide, RGB or RGBA: integers are rounded
 * from 0…1 clamped; floats are clamped too, unless `keepRange`. Missing samples become 0.
 */
export function quantize(raster: Raster, samples: Samples, width: number, keepRange = false): void {
  const channels = raster.alpha ? 4 : 3;
  const planes = raster.alpha ? [...raster.planes, raster.alpha] : raster.planes;
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
          samples[at] = float ? clamped : clamped * max + 0.5;
        }
      }
    }
  });
}
