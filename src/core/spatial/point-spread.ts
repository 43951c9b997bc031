import { SingularValueDecomposition, Matrix } from 'ml-matrix';

/** How the light of a point is spread over the sensor: a hill, round or oval. */
export interface PointSpread {
  /** A Gaussian, or a hill with the wide foot that the air gives it (Moffat 1969). */
  readonly kind: 'gauss' | 'moffat';
  /** Full width at half of its height, in samples: the geometric mean of its longer and its shorter axis. */
  readonly fwhm: number;
  /** How steep a Moffat's foot is. */
  readonly beta: number;
  /** The shorter axis as a part of the longer, 0…1. */
  readonly ratio: number;
  /** Of the longer axis, in degrees from the horizontal, clockwise. */
  readonly angle: number;
}

/** Least and most of each that a step takes, and that is believed of stars. */
export const SPREAD_BOUNDS = { fwhm: [0.5, 15], beta: [1.2, 12], ratio: [0.4, 1] } as const;

/** A Gaussian's width at half of its height, in σ. */
export const SIGMA_WIDTH = 2 * Math.sqrt(2 * Math.LN2);

/** How many half-widths of its longer axis are taken in; what is left out of a Gaussian is 4e-6 of it. */
const EXTENT = { gauss: 2.1, moffat: 4 } as const;
const LARGEST = 32;
/** Products of a column and a row that add up to less than this part of the whole are left out. */
const LEAST = 1e-5;

const axes = ({ fwhm, ratio }: PointSpread): { long: number; short: number } => ({
  long: fwhm / Math.sqrt(ratio),
  short: fwhm * Math.sqrt(ratio)
});

/** How many samples around its middle are taken in. */
export const spreadReach = (psf: PointSpread): number =>
  Math.min(LARGEST, Math.ceil(EXTENT[psf.kind] * axes(psf).long));

/** Its height at a place beside its middle, 1 in the middle. */
export function spreadAt(psf: PointSpread, x: number, y: number): number {
  const { long, short } = axes(psf);
  const angle = (psf.angle * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  const along = (x * cos + y * sin) / long;
  const across = (y * cos - x * sin) / short;
  // (distance / half of the width at half of the height)²
  const q = 4 * (along * along + across * across);
  return psf.kind === 'gauss' ? 2 ** -q : (1 + (2 ** (1 / psf.beta) - 1) * q) ** -psf.beta;
}

/** Sampled at the middles of pixels, row by row, and summing to 1. */
export function spreadSamples(psf: PointSpread): { samples: Float64Array; side: number } {
  const reach = spreadReach(psf);
  const side = 2 * reach + 1;
  const samples = Float64Array.from({ length: side * side }, (_, i) =>
    spreadAt(psf, (i % side) - reach, Math.floor(i / side) - reach)
  );
  const sum = samples.reduce((a, b) => a + b, 0);
  return { samples: samples.map((v) => v / sum), side };
}

/** Weights along a row and down a column, whose products are one part of a point-spread. */
export interface Product {
  readonly row: Float32Array;
  readonly column: Float32Array;
}

/**
 * A point-spread as a sum of products of a column and a row (its singular value decomposition), the largest first, so that it is
 * convolved by rows and by columns. One is enough for a Gaussian along the axes.
 */
export function spreadProducts(psf: PointSpread): Product[] {
  const { samples, side } = spreadSamples(psf);
  const rows = Array.from({ length: side }, (_, y) => [...samples.subarray(y * side, (y + 1) * side)]);
  const {
    leftSingularVectors: left,
    rightSingularVectors: right,
    diagonal
  } = new SingularValueDecomposition(new Matrix(rows));
  const products: Product[] = [];
  let rest = diagonal.reduce((a, b) => a + b, 0);
  for (const [i, value] of diagonal.entries()) {
    if (i > 0 && rest < LEAST) break;
    rest -= value;
    const root = Math.sqrt(value);
    products.push({
      column: Float32Array.from(left.getColumn(i), (v) => v * root),
      row: Float32Array.from(right.getColumn(i), (v) => v * root)
    });
  }
  return products;
}
