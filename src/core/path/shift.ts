import { fillChannel } from '../colour';
import { encodePlane } from '../colour/code-planes';
import { edges, phaseCorrelation, type Shift } from '../measure/shift';
import type { Rect } from '../raster/raster';
import { withEvaluated } from './evaluate';
import { planSize, type Plan } from './plan';

const SIDE = 256;
/** Squares of full size that refine what a smaller level has found: a grid of so many a side. */
const GRID = 3;

/** Tones at or beyond these ends are clipped in one of the exposures and tell nothing. */
const [DARKEST, BRIGHTEST] = [0.02, 0.98];

/** A grey square of a picture, its upper left at x, y of a level; what lies beside the picture repeats its edge. */
function squareOf(plan: Plan, level: number, x: number, y: number): Float32Array {
  const { width, height } = planSize(plan, level);
  const inside = (v: number, most: number): number => Math.min(most - 1, Math.max(0, v));
  const rect: Rect = {
    x: inside(x, width),
    y: inside(y, height),
    width: inside(x + SIDE - 1, width) - inside(x, width) + 1,
    height: inside(y + SIDE - 1, height) - inside(y, height) + 1
  };
  return withEvaluated(plan, level, rect, null, ({ planes, encoding }) => {
    const n = rect.width * rect.height;
    const grey = new Float32Array(n);
    fillChannel('lum', planes, encoding, grey, n);
    if (encoding === 'linear') encodePlane(grey, grey, n);
    const out = new Float32Array(SIDE * SIDE);
    for (let v = 0; v < SIDE; v++) {
      for (let u = 0; u < SIDE; u++) {
        const at = (inside(y + v, height) - rect.y) * rect.width + inside(x + u, width) - rect.x;
        out[v * SIDE + u] = Math.min(BRIGHTEST, Math.max(DARKEST, grey[at]));
      }
    }
    return out;
  });
}

/**
 * How far the picture of `other` has moved against that of `plan`, right and down, in full-size pixels: found on a level
 * that a square of 256 holds, then refined on squares of full size, cut where the first finding puts them.
 */
export function measureShift(plan: Plan, other: Plan): Shift {
  const { width, height } = plan.geometry;
  let level = 0;
  while (level < plan.head.levels - 1 && Math.max(width, height) / 2 ** level > SIDE) level++;
  const small = phaseCorrelation([
    [edges(squareOf(plan, level, 0, 0), SIDE), edges(squareOf(other, level, 0, 0), SIDE)]
  ]);
  let found = { x: small.x * 2 ** level, y: small.y * 2 ** level };
  if (level === 0) return small;
  // From coarse to fine, each level's squares laid where the last one says.
  for (let l = Math.max(0, level - 2); ; l = Math.max(0, l - 2)) {
    const size = planSize(plan, l);
    const [dx, dy] = [Math.round(found.x / 2 ** l), Math.round(found.y / 2 ** l)];
    const pairs = Array.from({ length: GRID * GRID }, (_, i) => {
      const x = Math.round(((i % GRID) + 0.5) * (size.width / GRID) - SIDE / 2);
      const y = Math.round((Math.floor(i / GRID) + 0.5) * (size.height / GRID) - SIDE / 2);
      return [edges(squareOf(plan, l, x, y), SIDE), edges(squareOf(other, l, x + dx, y + dy), SIDE)] as const;
    });
    const finer = phaseCorrelation(pairs);
    found = { x: (dx + finer.x) * 2 ** l, y: (dy + finer.y) * 2 ** l };
    if (l === 0) return { ...found, certainty: finer.certainty };
  }
}
