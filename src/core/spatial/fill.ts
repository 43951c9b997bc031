import { takePlane } from '../kernels/arena';
import { expand, reduce, type Band } from './laplacian';

/** Less weight than this is none: rounding of the pyramid. */
const NONE = 1e-6;
/** How many places the coarsest level grows beyond what it knows. */
const GROWS = 2;

/**
 * A plane with its missing samples filled from those around, so that a pyramid of it knows no black in their place: pull and
 * push (Gortler et al. 1996). Each level of a pyramid of `scales` levels takes its means over the samples that are there;
 * what is missing in one is read from the next coarser.
 */
export function filled(band: Band, present: Float32Array, scales: number): Float32Array {
  const n = band.width * band.height;
  const values = takePlane(n);
  const weights = takePlane(n);
  for (let i = 0; i < n; i++) {
    weights[i] = present[i];
    values[i] = present[i] > 0 ? band.plane[i] : 0;
  }
  let level: Level = { values: { ...band, plane: values }, weights: { ...band, plane: weights } };
  const levels = [level];
  for (let j = 0; j < scales; j++) {
    level = { values: reduce(level.values), weights: reduce(level.weights) };
    levels.push(level);
  }
  for (const each of levels) toMeans(each);
  for (let round = 0; round < GROWS; round++) growMeans(level);
  for (let j = scales - 1; j >= 0; j--) {
    const finer = levels[j];
    const read = expand(levels[j + 1].values, finer.values);
    const { plane } = finer.values;
    const known = finer.weights.plane;
    for (let i = 0; i < finer.values.width * finer.values.height; i++)
      if (known[i] <= NONE) plane[i] = read[i];
  }
  return levels[0].values.plane;
}

interface Level {
  readonly values: Band;
  readonly weights: Band;
}

/** Sums into means. */
function toMeans({ values, weights }: Level): void {
  const n = values.width * values.height;
  for (let i = 0; i < n; i++) if (weights.plane[i] > NONE) values.plane[i] /= weights.plane[i];
}

/** Fills the places beside those that are known with the means of their neighbours. */
function growMeans({ values, weights }: Level): void {
  const { width, height, plane } = values;
  const known = weights.plane.slice(0, width * height);
  const before = plane.slice(0, width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = y * width + x;
      if (known[at] > NONE) continue;
      let sum = 0;
      let count = 0;
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
          if (known[v * width + u] <= NONE) continue;
          sum += before[v * width + u];
          count++;
        }
      }
      if (count === 0) continue;
      plane[at] = sum / count;
      weights.plane[at] = 1;
    }
  }
}
