/** Where stars stand: peaks of a plane, each then told to a part of a pixel. */
import { sameSamples } from '../kernels/compare';
import type { Rect } from '../raster/raster';
import { splineSmooth } from '../spatial/a-trous';
import { wholeField } from '../spatial/field';
import { clippedSigma } from './noise';
import type { Seen } from './seen';

export interface StarPlace {
  /** In samples from the upper left corner of the upper left one. */
  readonly x: number;
  readonly y: number;
  /** How much light it has, to tell the brighter ones. */
  readonly light: number;
}

/**
 * The brightest peaks of the size of stars: maxima of what is neither as fine as noise nor as coarse as clouds, over `threshold` σ of
 * that. None where samples are missing, nor at the border.
 */
export function starPeaks(
  plane: Float32Array,
  width: number,
  height: number,
  threshold: number,
  most: number
): StarPlace[] {
  const field = wholeField({ x: 0, y: 0, width, height });
  const [fine, coarse] = [new Float32Array(plane.length), new Float32Array(plane.length)];
  splineSmooth(plane, fine, field, 1);
  splineSmooth(fine, coarse, field, 2);
  const detail = fine.map((v, i) => v - coarse[i]);
  const least = threshold * clippedSigma(detail);
  const found: StarPlace[] = [];
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const v = detail[i];
      if (!(v > least)) continue;
      // Of a flat top, as a saturated star has it, the first sample is the peak.
      const before = Math.max(detail[i - width - 1], detail[i - width], detail[i - width + 1], detail[i - 1]);
      const after = Math.max(detail[i + 1], detail[i + width - 1], detail[i + width], detail[i + width + 1]);
      if (v > before && v >= after) found.push({ x: x + 0.5, y: y + 0.5, light: v });
    }
  }
  return found.sort((a, b) => b.light - a.light).slice(0, most);
}

/** Half the side of the square about a star from which its place is told. */
export const STAR_REACH = 9;
const WINDOW = 2.2;
const ROUNDS = 12;
const SETTLED = 1e-4;
/** A peak that holds so much of its light in one sample is no star. */
const HOT = 0.7;

/**
 * The place of a star about the middle of a square of samples, to a few hundredths of one: its centre of light under a Gaussian
 * window that goes with it (Bertin & Arnouts 1996, windowed positions), over the median of the square's border.
 * @returns null where no star is: none stands out, it lies off the middle, a sample is missing, or it is a single hot one
 */
export function starPlace(square: Float32Array, side: number): StarPlace | null {
  const border: number[] = [];
  for (let k = 0; k < side; k++)
    border.push(square[k], square[(side - 1) * side + k], square[k * side], square[k * side + side - 1]);
  const ground = border.sort((a, b) => a - b)[border.length >> 1];
  const middle = side / 2;
  let [x, y] = [middle, middle];
  let light = 0;
  for (let round = 0; round < ROUNDS; round++) {
    let [sum, sx, sy, peak, near] = [0, 0, 0, 0, 0];
    for (let j = 0; j < side; j++) {
      for (let i = 0; i < side; i++) {
        const [dx, dy] = [i + 0.5 - x, j + 0.5 - y];
        const v = square[j * side + i] - ground;
        const weighed = v * Math.exp((-0.5 * (dx * dx + dy * dy)) / WINDOW ** 2);
        sum += weighed;
        sx += weighed * dx;
        sy += weighed * dy;
        if (dx * dx + dy * dy < 6) near += Math.max(0, v);
        peak = Math.max(peak, v);
      }
    }
    if (!(sum > 0) || peak > HOT * near) return null;
    const [mx, my] = [(2 * sx) / sum, (2 * sy) / sum];
    x += mx;
    y += my;
    light = sum;
    if (Math.hypot(x - middle, y - middle) > STAR_REACH / 2) return null;
    if (Math.hypot(mx, my) < SETTLED) break;
  }
  return { x, y, light };
}

/** The mean of its channels; where they are the same, one of them, not to be written to. */
export function greyOf({ planes: [r, g, b] }: Seen): Float32Array {
  // The mean of what is the same three times is just that.
  if (sameSamples(r, g, r.length) && sameSamples(g, b, r.length)) return r;
  const grey = new Float32Array(r.length);
  for (let i = 0; i < grey.length; i++) grey[i] = (r[i] + g[i] + b[i]) / 3;
  return grey;
}

/** Stars stand out of the analysis raster by so many σ. */
const THRESHOLD = 6;

/**
 * Places of the brightest stars of a picture, in full-size pixels: found in its analysis raster, told at full size. Yields after each.
 * @param size of the picture
 * @param region reads a part of it at full size
 */
export function* starsIn(
  raster: Seen,
  { width, height }: { readonly width: number; readonly height: number },
  region: (rect: Rect) => Seen,
  most: number
): Generator<void, StarPlace[], void> {
  const scale = width / raster.width;
  const side = 2 * STAR_REACH + 1;
  const found: StarPlace[] = [];
  for (const peak of starPeaks(greyOf(raster), raster.width, raster.height, THRESHOLD, most)) {
    const [x, y] = [Math.floor(peak.x * scale) - STAR_REACH, Math.floor(peak.y * scale) - STAR_REACH];
    if (x < 0 || y < 0 || x + side > width || y + side > height) continue;
    const place = starPlace(greyOf(region({ x, y, width: side, height: side })), side);
    if (place) found.push({ ...place, x: x + place.x, y: y + place.y });
    yield;
  }
  // The same star may be the peak of two samples.
  return found
    .sort((a, b) => b.light - a.light)
    .filter((star, i, all) => !all.slice(0, i).some((o) => Math.hypot(o.x - star.x, o.y - star.y) < 2));
}
