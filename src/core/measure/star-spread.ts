/** The point-spread that a picture's own stars show. */
import type { Rect } from '../raster/raster';
import type { PointSpread } from '../spatial/point-spread';
import { quantiles } from './quantile';
import type { Seen } from './seen';
import { starsIn } from './star-places';
import { commonSpread, SHAPE_REACH, starShape, type StarShape } from './star-shape';

/** A star that the point-spread was measured from, in full-size pixels. */
export interface MeasuredStar {
  readonly x: number;
  readonly y: number;
  readonly fwhm: number;
  readonly ratio: number;
}
export interface MeasuredSpread {
  /** Null where too few stars have a shape. */
  readonly psf: (PointSpread & { readonly kind: 'moffat' }) | null;
  readonly stars: readonly MeasuredStar[];
  /** The mean of the stars as they stand in their squares, the brightest sample 1, row by row. */
  readonly mean: readonly number[];
}

/** So many stars are looked at, and so few at least must have a shape. */
const [MOST_STARS, FEWEST] = [150, 5];
/** Parts of the work: to look for stars, to shape each by itself, and again by what all have in common. */
const [LOOKING, SHAPING] = [0.3, 0.4];

interface Squared {
  readonly x: number;
  readonly y: number;
  readonly samples: Float32Array;
  readonly shape: StarShape;
}

/**
 * Looks for the brightest stars, shapes each, and then again with the foot that all together tell. Yields how much of it is done, 0…1.
 * @param raster the analysis raster
 * @param size of the picture
 * @param region reads a part of it at full size
 * @param lightOf the light of a part of it, by which a star's shape is told
 */
export function* spreadOfStars(
  raster: Seen,
  size: { readonly width: number; readonly height: number },
  region: (rect: Rect) => Seen,
  lightOf: (seen: Seen) => Float32Array
): Generator<number, MeasuredSpread, void> {
  const looking = starsIn(raster, size, region, MOST_STARS);
  let told = 0;
  let step = looking.next();
  for (; !step.done; step = looking.next()) yield Math.min(1, ++told / MOST_STARS) * LOOKING;
  const side = 2 * SHAPE_REACH + 1;
  const squares: Squared[] = [];
  for (const [i, star] of step.value.entries()) {
    const [x, y] = [Math.floor(star.x) - SHAPE_REACH, Math.floor(star.y) - SHAPE_REACH];
    if (x < 0 || y < 0 || x + side > size.width || y + side > size.height) continue;
    const samples = lightOf(region({ x, y, width: side, height: side }));
    const shape = starShape(samples);
    if (shape) squares.push({ x, y, samples, shape });
    yield LOOKING + (SHAPING * (i + 1)) / step.value.length;
  }
  if (squares.length < FEWEST) return { psf: null, stars: [], mean: [] };
  // How steep the foot is, is told by all together; each star's own width is told with that.
  const { beta } = commonSpread(squares.map(({ shape }) => shape.spread));
  const stars: MeasuredStar[] = [];
  const spreads: PointSpread[] = [];
  for (const [i, { x, y, samples }] of squares.entries()) {
    const shape = starShape(samples, beta);
    if (shape) {
      spreads.push(shape.spread);
      const { fwhm, ratio } = shape.spread;
      stars.push({ x: x + shape.x, y: y + shape.y, fwhm, ratio });
    }
    yield LOOKING + SHAPING + ((1 - LOOKING - SHAPING) * (i + 1)) / squares.length;
  }
  if (stars.length < FEWEST) return { psf: null, stars: [], mean: [] };
  return { psf: commonSpread(spreads), stars, mean: meanSquare(squares.map(({ samples }) => samples)) };
}

/** The mean of squares about stars over what is about them, its brightest sample 1. */
function meanSquare(squares: readonly Float32Array[]): number[] {
  const sum = new Float64Array(squares[0].length);
  for (const square of squares) {
    const [ground, peak] = quantiles(square, square.length, [0.5, 1]);
    square.forEach((v, i) => (sum[i] += (v - ground) / (peak - ground)));
  }
  const peak = Math.max(...sum);
  return Array.from(sum, (v) => v / peak);
}
