import type { Planes } from '../colour';
import { heldByOwn, isOwn, type OwnSpace } from '../colour/own';
import { inRoom } from '../kernels/arena';
import { ciede2000 } from '../measure/difference';
import type { Raster } from '../raster/raster';
import { toLab } from './differing';
import { coloursOf, inEncoding, type Quantizing } from './quantize';

/** What the values of a file stand for. */
export type WrittenAs = Pick<Quantizing, 'space' | 'encoding'>;

/** How many pixels a space can't hold, of those that are there. */
export interface Outside {
  readonly outside: number;
  readonly pixels: number;
}

/** Half a step of 16 bits: what is cut by less is lost in rounding. */
const ROUNDING = 0.5 / 65535;

/** A profile of a person's own has its tables' roundings and no clear edge: what it changes by less than this ΔE 2000 it holds. */
export const HELD = 2;

/**
 * Counts pixels of which a channel lies below 0 or above 1 in the space that they are written in, where they are cut; of an own profile,
 * those that come back from it as another colour. Missing and wholly transparent ones are not counted at all.
 * @param told of each by its number in the raster
 */
export const outsideOf = (
  raster: Raster,
  quantizing: WrittenAs,
  told: (pixel: number) => void = () => undefined
): Outside =>
  inRoom(() => {
    const { space } = quantizing;
    const isOutside = isOwn(space) ? movedBy(raster, space) : cutIn(raster, quantizing);
    const alpha = raster.alpha?.slice();
    let [outside, pixels] = [0, 0];
    for (let i = 0; i < raster.width * raster.height; i++) {
      const is = isOutside(i);
      if (is === null || alpha?.[i] === 0) continue;
      pixels++;
      if (!is) continue;
      outside++;
      told(i);
    }
    return { outside, pixels };
  });

/** Of a pixel; null where it is missing. */
type IsOutside = (pixel: number) => boolean | null;

function cutIn(raster: Raster, quantizing: WrittenAs): IsOutside {
  // Not in the kernels' memory, where what reads single samples is slow.
  const [r, g, b] = coloursOf(raster, quantizing).map((plane) => plane.slice());
  return (i) => {
    const [least, most] = [Math.min(r[i], g[i], b[i]), Math.max(r[i], g[i], b[i])];
    return least !== least ? null : least < -ROUNDING || most > 1 + ROUNDING;
  };
}

function movedBy({ planes, encoding }: Raster, space: OwnSpace): IsOutside {
  const n = planes[0].length;
  const lights = inEncoding(planes, encoding, 'linear') as Planes;
  const held = heldByOwn(space, lights, n);
  for (const colours of [lights, held]) toLab(colours, 'linear', n);
  const [l1, a1, b1, l2, a2, b2] = [...lights, ...held].map((plane) => plane.slice());
  const missing = planes.map((plane) => plane.slice());
  return (i) =>
    missing.some((plane) => plane[i] !== plane[i])
      ? null
      : ciede2000(l1[i], a1[i], b1[i], l2[i], a2[i], b2[i]) > HELD;
}

/** Stripes of a hatch, from one to the next, and how wide the light and the dark of each are. */
const [STRIDE, LIGHT, DARK] = [12, 2, 4];

/** Hatches pixels of RGBA that lie outside, so that it is seen on every colour. */
export function hatchOutside(raster: Raster, quantizing: WrittenAs, rgba: Uint8ClampedArray): void {
  outsideOf(raster, quantizing, (pixel) => {
    const stripe = ((pixel % raster.width) + Math.floor(pixel / raster.width)) % STRIDE;
    if (stripe < DARK) rgba.fill(stripe < LIGHT ? 255 : 0, 4 * pixel, 4 * pixel + 3);
  });
}
