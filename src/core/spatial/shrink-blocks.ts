import { eitherWay, inRoom, matrixAt, simd, takePlane } from '../kernels/arena';
import { sigmaAt, type NoiseCurve } from '../measure/noise-curve';

/** Samples that the kernel works in. */
const ROOM = 1280;
/** Side of a block. */
export const BLOCK = 8;
/** Every fourth block of a row is taken, in turn from row to row, counted from the picture's corner: within 0.1 dB of all of them. Where
 * they are taken of every second row only, it is within 0.7 dB, in half of the time. */
export const STEP = 4;

/** The cosine transform of 8 samples (DCT-II, orthonormal): a coefficient a row. */
const COSINES = Array.from({ length: BLOCK }, (_, u) =>
  Array.from(
    { length: BLOCK },
    (_, x) => Math.sqrt((u === 0 ? 1 : 2) / BLOCK) * Math.cos(((2 * x + 1) * u * Math.PI) / (2 * BLOCK))
  )
);

/**
 * Adds the blocks of a plane, each shrunk in its cosine transform, to `sum`, and what each weighs to `weights` (Yu & Sapiro 2011).
 * Without a pilot, coefficients under `threshold` σ go; with one, each is kept as far as the pilot's is signal (Wiener: p²/(p² + σ²)).
 * A block weighs the more the fewer coefficients it is made of. The mean of a block stays.
 * @param rows blocks begin at every row, or at every second
 */
export function shrinkBlocks(
  plane: Float32Array,
  pilot: Float32Array | null,
  sum: Float32Array,
  weights: Float32Array,
  { width, height }: { readonly width: number; readonly height: number },
  noise: NoiseCurve,
  threshold: number,
  rows: 1 | 2
): void {
  inRoom(() => {
    const room = takePlane(ROOM);
    eitherWay(
      [plane, sum, weights, room, ...(pilot ? [pilot] : [])],
      (at, total, weigh, space, pilotAt = 0) =>
        simd.shrinkBlocks(
          ...([at, pilotAt, total, weigh, width, height, threshold] as const),
          curveTable(noise),
          rows,
          space
        ),
      () => shrinkPlainly(plane, pilot, sum, weights, width, height, noise, threshold, rows)
    );
  });
}

/** A curve of noise as kernels read it. */
export function curveTable({ from, to, sigmas }: NoiseCurve): number {
  const last = sigmas.length - 1;
  return matrixAt([from, last / (to - from), last, ...sigmas]);
}

/** Rows by columns: a · b, or a · bᵀ. */
function product(a: readonly number[][], b: readonly number[][], turned = false): number[][] {
  return a.map((row) =>
    row.map((_, j) => row.reduce((sum, v, k) => sum + v * (turned ? b[j][k] : b[k][j]), 0))
  );
}
const TURNED = COSINES.map((_, x) => COSINES.map((row) => row[x]));

function shrinkPlainly(
  plane: Float32Array,
  pilot: Float32Array | null,
  sum: Float32Array,
  weights: Float32Array,
  width: number,
  height: number,
  noise: NoiseCurve,
  threshold: number,
  rows: 1 | 2
): void {
  const blockAt = (from: Float32Array, x: number, y: number): number[][] => {
    const samples = COSINES.map((_, j) => COSINES.map((_, i) => from[(y + j) * width + x + i]));
    return product(product(COSINES, samples), COSINES, true);
  };
  for (let y = 0; y + BLOCK <= height; y += rows) {
    for (let x = (y / rows) % STEP; x + BLOCK <= width; x += STEP) {
      const block = blockAt(plane, x, y);
      const guide = pilot ? blockAt(pilot, x, y) : block;
      const sigma = sigmaAt(noise, guide[0][0] / BLOCK);
      const gains = guide.map((row) =>
        row.map((c) => {
          if (!pilot) return Math.abs(c) > threshold * sigma ? 1 : 0;
          return (c * c) / (c * c + Math.max(1e-20, sigma * sigma));
        })
      );
      const kept = Math.max(
        1,
        gains.flat().reduce((total, g) => total + g * g, 0)
      );
      const weight = pilot ? 1 / kept : kept ** -1.5;
      const shrunk = block.map((row, u) => row.map((c, v) => (u + v === 0 ? c : c * gains[u][v])));
      const samples = product(product(TURNED, shrunk), TURNED, true);
      for (let j = 0; j < BLOCK; j++)
        for (let i = 0; i < BLOCK; i++) {
          sum[(y + j) * width + x + i] += samples[j][i] * weight;
          weights[(y + j) * width + x + i] += weight;
        }
    }
  }
}
