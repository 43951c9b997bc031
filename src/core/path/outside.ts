import { inRoom } from '../kernels/arena';
import type { Raster } from '../raster/raster';
import { coloursOf, type Quantizing } from './quantize';

/** What the values of a file stand for. */
export type WrittenAs = Pick<Quantizing, 'space' | 'encoding'>;

/** How many pixels a space can't hold, of those that are there. */
export interface Outside {
  readonly outside: number;
  readonly pixels: number;
}

/** Half a step of 16 bits: what is cut by less is lost in rounding. */
const ROUNDING = 0.5 / 65535;

/**
 * Counts pixels of which a channel lies below 0 or above 1 in the space that they are written in, where they are cut. Missing and wholly
 * transparent ones are not counted at all.
 * @param told of each by its number in the raster
 */
export const outsideOf = (
  raster: Raster,
  quantizing: WrittenAs,
  told: (pixel: number) => void = () => undefined
): Outside =>
  inRoom(() => {
    // Not in the kernels' memory, where what reads single samples is slow.
    const [r, g, b] = coloursOf(raster, quantizing).map((plane) => plane.slice());
    const alpha = raster.alpha?.slice();
    let [outside, pixels] = [0, 0];
    for (let i = 0; i < r.length; i++) {
      const [least, most] = [Math.min(r[i], g[i], b[i]), Math.max(r[i], g[i], b[i])];
      if (least !== least || alpha?.[i] === 0) continue;
      pixels++;
      if (least >= -ROUNDING && most <= 1 + ROUNDING) continue;
      outside++;
      told(i);
    }
    return { outside, pixels };
  });

/** Stripes of a hatch, from one to the next, and how wide the light and the dark of each are. */
const [STRIDE, LIGHT, DARK] = [12, 2, 4];

/** Hatches pixels of RGBA that lie outside, so that it is seen on every colour. */
export function hatchOutside(raster: Raster, quantizing: WrittenAs, rgba: Uint8ClampedArray): void {
  outsideOf(raster, quantizing, (pixel) => {
    const stripe = ((pixel % raster.width) + Math.floor(pixel / raster.width)) % STRIDE;
    if (stripe < DARK) rgba.fill(stripe < LIGHT ? 255 : 0, 4 * pixel, 4 * pixel + 3);
  });
}
