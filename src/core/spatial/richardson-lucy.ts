import { eitherWay, inRoom, simd, takePlane } from '../kernels/arena';
import type { Field } from './field';
import { convolveColumns, convolveRows } from './gaussian';
import type { Product } from './point-spread';

/** What is added to what the estimate would look like, so that nothing is divided by 0. */
const LEAST = 1e-12;
/** Less than this part of a point-spread lies on samples that are there: too little to tell anything from. */
const LEAST_PRESENT = 1e-3;
/** Slopes below so many λ of what they lie on count for less, so that the rounds come to rest there. */
const SOFT = 6;

export interface DeconvolveHow {
  readonly iterations: number;
  /** λ of the total variation. */
  readonly smoothness: number;
}

/** How many samples around one a number of iterations depends on. */
export const deconvolveReach = (reach: number, { iterations, smoothness }: DeconvolveHow): number =>
  iterations * (2 * reach + (smoothness > 0 ? 2 : 0));

/** Writes `source` convolved with a sum of products into `out`; the edge samples stand for what lies beyond. `between` is lost. */
function convolve(
  source: Float32Array,
  out: Float32Array,
  { width, height }: Field,
  products: readonly Product[],
  between: Float32Array,
  part: Float32Array
): void {
  const n = width * height;
  products.forEach(({ row, column }, k) => {
    convolveRows(source, between, width, height, row);
    if (k === 0) return convolveColumns(between, out, width, height, column);
    convolveColumns(between, part, width, height, column);
    eitherWay(
      [out, part],
      (to, from) => simd.addPlane(to, from, n, 1),
      () => {
        for (let i = 0; i < n; i++) out[i] += part[i];
      }
    );
  });
}

/**
 * Deconvolution by Richardson (1972) and Lucy (1974) from a flat first estimate: what makes `image` likeliest where light arrives as it
 * does in counts. With `smoothness` λ the estimate is divided by 1 − λ·div(∇u/|∇u|), which holds noise down and leaves edges (total
 * variation; Dey et al. 2006; |∇u| with (6·λ·u)² under its root). The point-spread is the same turned by 180°. Light below 0 stays as it is; missing samples take no part.
 * @param goOn called before each round; what it throws ends it
 */
export function richardsonLucy(
  image: Float32Array,
  out: Float32Array,
  field: Field,
  products: readonly Product[],
  how: DeconvolveHow,
  goOn: () => void = () => undefined
): void {
  const { width, height, present } = field;
  const n = width * height;
  inRoom(() => {
    const [light, estimate, seen, correction, between, part] = Array.from({ length: 6 }, () => takePlane(n));
    // What lies under a place is weighed by how much of its light falls on samples that are there.
    const weights = present ? takePlane(n) : null;
    for (let i = 0; i < n; i++) light[i] = present && present[i] === 0 ? 0 : Math.max(0, image[i]);
    if (weights) {
      convolve(present!, weights, field, products, between, part);
      for (let i = 0; i < n; i++) weights[i] = weights[i] > LEAST_PRESENT ? 1 / weights[i] : 0;
    }
    estimate.fill(0.5, 0, n);
    for (let round = 0; round < how.iterations; round++) {
      goOn();
      convolve(estimate, seen, field, products, between, part);
      if (present) for (let i = 0; i < n; i++) seen[i] = present[i] === 0 ? 0 : light[i] / (seen[i] + LEAST);
      else for (let i = 0; i < n; i++) seen[i] = light[i] / (seen[i] + LEAST);
      convolve(seen, correction, field, products, between, part);
      if (weights) for (let i = 0; i < n; i++) correction[i] *= weights[i];
      if (how.smoothness > 0) holdDown(estimate, correction, width, height, how.smoothness, between);
      for (let i = 0; i < n; i++) estimate[i] *= correction[i];
    }
    for (let i = 0; i < n; i++) out[i] = estimate[i] + Math.min(0, image[i]);
    if (present) for (let i = 0; i < n; i++) if (present[i] === 0) out[i] = image[i];
  });
}

/** Divides a correction by 1 − λ·div(∇u/|∇u|): slopes between a sample and the one after it. `toRight` is lost. */
function holdDown(
  estimate: Float32Array,
  correction: Float32Array,
  width: number,
  height: number,
  lambda: number,
  toRight: Float32Array
): void {
  let above = new Float32Array(width);
  let down = new Float32Array(width);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    const next = y + 1 < height ? width : 0;
    for (let x = 0; x < width; x++) {
      const i = at + x;
      const dx = x + 1 < width ? estimate[i + 1] - estimate[i] : 0;
      const dy = estimate[i + next] - estimate[i];
      const soft = SOFT * lambda * estimate[i] + LEAST;
      const by = 1 / Math.sqrt(dx * dx + dy * dy + soft * soft);
      toRight[i] = dx * by;
      down[x] = dy * by;
    }
    for (let x = 0; x < width; x++) {
      const i = at + x;
      const divergence = toRight[i] - (x > 0 ? toRight[i - 1] : 0) + down[x] - above[x];
      correction[i] /= Math.max(0.1, 1 - lambda * divergence);
    }
    [above, down] = [down, above];
  }
}
