/** The shape of stars: an oval Moffat (1969) laid through each by least squares (Levenberg 1944, Marquardt 1963). */
import { levenbergMarquardt } from 'ml-levenberg-marquardt';
import { SPREAD_BOUNDS, type PointSpread } from '../spatial/point-spread';
import { quantiles } from './quantile';
import { medianOf } from './sky';

/** Half the side of the square about a star that is looked at. */
export const SHAPE_REACH = 12;
const SIDE = 2 * SHAPE_REACH + 1;
/** Stars this bright may be burnt out. */
const BURNT = 0.85;
/** A star that rises less than so many times over the scatter about it says little of its shape. */
const LEAST_RISE = 25;
const ROUNDS = 40;
/** How far the samples may be from the hill, as a part of its height. */
const WORST = 0.04;
/** A hill that is narrower than so many samples is a single hot one. */
const NARROWEST = 0.7;
const { fwhm: WIDTHS, beta: FEET, ratio: RATIOS } = SPREAD_BOUNDS;

/** How one star is shaped. */
export interface StarShape {
  /** In the samples of its square, of which the middle of the first is 0. */
  readonly x: number;
  readonly y: number;
  readonly spread: PointSpread;
  /** How far the samples are from the hill, as a part of its height. */
  readonly rest: number;
}

/** (x, y) of a hill of height 1: (1 + a·x² + 2b·x·y + c·y²)^−β. */
interface Hill {
  readonly a: number;
  readonly b: number;
  readonly c: number;
  readonly beta: number;
}

/** The axes and the turn of a hill. */
function spreadOf({ a, b, c, beta }: Hill): PointSpread {
  // Eigenvalues of the form: the small one belongs to the long axis.
  const mean = (a + c) / 2;
  const apart = Math.hypot((a - c) / 2, b);
  const foot = 2 ** (1 / beta) - 1;
  const [long, short] = [mean - apart, mean + apart].map((v) => 2 * Math.sqrt(foot / Math.max(1e-9, v)));
  return {
    kind: 'moffat',
    fwhm: Math.sqrt(long * short),
    beta,
    ratio: short / long,
    angle: (Math.atan2(-2 * b, c - a) * 90) / Math.PI
  };
}

/** Height, place, form, ground and, where it is not known, foot of a hill, as they are looked for. */
type Looked = readonly number[];

const from = ([, mx, my]: Looked, i: number): [number, number] => [
  (i % SIDE) - SHAPE_REACH - mx,
  Math.floor(i / SIDE) - SHAPE_REACH - my
];
const formAt = ([, , , a, b, c]: Looked, x: number, y: number): number =>
  Math.max(0, a * x * x + 2 * b * x * y + c * y * y);

function hillAt(hill: Looked, i: number, beta: number | null): number {
  const [x, y] = from(hill, i);
  return hill[6] + hill[0] * (1 + formAt(hill, x, y)) ** -(beta ?? hill[7]);
}

/** How it changes with each of them. */
function slopesAt(hill: Looked, i: number, beta: number | null): number[] {
  const [x, y] = from(hill, i);
  const [top, , , a, b, c] = hill;
  const foot = beta ?? hill[7];
  const q = 1 + formAt(hill, x, y);
  const shape = q ** -foot;
  const byForm = (-top * foot * shape) / q;
  const slopes = [
    shape,
    -2 * byForm * (a * x + b * y),
    -2 * byForm * (b * x + c * y),
    byForm * x * x,
    2 * byForm * x * y,
    byForm * y * y,
    1
  ];
  if (beta === null) slopes.push(-top * shape * Math.log(q));
  return slopes;
}

/**
 * Lays a hill through the star in the middle of a square of samples of side 2·SHAPE_REACH + 1.
 * @param beta how steep its foot is, where that is known
 * @returns null where there is none: missing samples, burnt out, too faint, not alone, or no hill fits
 */
export function starShape(square: Float32Array, beta: number | null = null): StarShape | null {
  if (square.some((v) => v !== v)) return null;
  const rim = square.filter((_, i) => {
    const [x, y] = [i % SIDE, Math.floor(i / SIDE)];
    return x < 2 || y < 2 || x >= SIDE - 2 || y >= SIDE - 2;
  });
  const [low, ground, high] = quantiles(rim, rim.length, [0.16, 0.5, 0.84]);
  const scatter = Math.max(1e-9, (high - low) / 2);
  const peak = Math.max(
    ...square.filter((_, i) => Math.hypot((i % SIDE) - SHAPE_REACH, Math.floor(i / SIDE) - SHAPE_REACH) < 3)
  );
  const height = peak - ground;
  if (peak > BURNT || height < LEAST_RISE * scatter) return null;
  // Another star beside it would be taken for its foot.
  if (Math.max(...rim) - ground > Math.max(6 * scatter, 0.05 * height)) return null;
  const at = Array.from({ length: SIDE * SIDE }, (_, i) => i);
  const values = Float64Array.from(square, (v) => (v - ground) / height);
  const free = beta === null ? [3] : [];
  // As wide as what is over half of its height covers.
  const half = Math.max(1, values.filter((v) => v > 0.5).length);
  const form = (Math.PI * (2 ** (1 / (beta ?? 3)) - 1)) / half;
  const found = levenbergMarquardt({ x: at, y: values }, (hill) => (i) => hillAt(hill, i, beta), {
    jacobianFunction: (hill) => (i) => slopesAt(hill, i, beta),
    initialValues: [1, 0, 0, form, 0, form, 0, ...free],
    minValues: [0.3, -2, -2, 1e-3, -3, 1e-3, -0.1, ...free.map(() => FEET[0])],
    maxValues: [4, 2, 2, 6, 3, 6, 0.1, ...free.map(() => FEET[1])],
    damping: 1e-2,
    maxIterations: ROUNDS,
    improvementThreshold: 1e-5,
    errorTolerance: 1e-9
  });
  const [, mx, my, a, b, c, , foot] = found.parameterValues;
  if (a * c - b * b <= 0) return null;
  const spread = spreadOf({ a, b, c, beta: beta ?? foot });
  const rest = Math.sqrt(found.parameterError / at.length);
  const { fwhm, ratio } = spread;
  if (!(fwhm > NARROWEST && fwhm <= WIDTHS[1] && ratio >= RATIOS[0] && rest < WORST)) return null;
  return { x: SHAPE_REACH + mx, y: SHAPE_REACH + my, spread, rest };
}

/** A shape that is common to stars, of the medians of theirs: of width, and of the two parts of being oval. */
export function commonSpread(spreads: readonly PointSpread[]): PointSpread & { readonly kind: 'moffat' } {
  const oval = spreads.map(({ ratio, angle }) => {
    const by = (1 - ratio) / (1 + ratio);
    return [by * Math.cos((angle * Math.PI) / 90), by * Math.sin((angle * Math.PI) / 90)];
  });
  const [u, v] = [0, 1].map((k) => medianOf(oval.map((o) => o[k])));
  const by = Math.hypot(u, v);
  return {
    kind: 'moffat',
    fwhm: medianOf(spreads.map(({ fwhm }) => fwhm)),
    beta: medianOf(spreads.map(({ beta }) => beta)),
    // Of both parts' medians it may come out less than that of any star.
    ratio: Math.max(RATIOS[0], (1 - by) / (1 + by)),
    angle: (Math.atan2(v, u) * 90) / Math.PI
  };
}
