import { inRoom, takePlane } from '../kernels/arena';
import { splineSmooth } from '../spatial/a-trous';
import { wholeField } from '../spatial/field';

/** Sums over what a step took out of a channel. */
export interface TakenOut {
  readonly squares: number;
  /** Of the same after a B3 spline, which takes most of what is as fine as noise. */
  readonly smooth: number;
  readonly count: number;
}

/** What a B3 spline leaves of the squares of white noise: the sum of its squared weights. */
const WHITE = (70 / 256) ** 2;
/** Samples at the border of a part that the spline knows too little of. */
const RIM = 2;

export const NOTHING_TAKEN: TakenOut = { squares: 0, smooth: 0, count: 0 };

/** What lies between a plane and what was made of it, over all but its rim. Missing samples take no part. */
export function takenOut(before: Float32Array, after: Float32Array, width: number, height: number): TakenOut {
  return inRoom(() => {
    const n = width * height;
    const [taken, soft, present] = [takePlane(n), takePlane(n), takePlane(n)];
    let missing = 0;
    for (let i = 0; i < n; i++) {
      const by = before[i] - after[i];
      const there = by === by;
      present[i] = there ? 1 : 0;
      taken[i] = there ? by : 0;
      if (!there) missing++;
    }
    const field = wholeField({ x: 0, y: 0, width, height });
    splineSmooth(taken, soft, missing > 0 ? { ...field, present } : field, 1);
    let [squares, smooth, count] = [0, 0, 0];
    for (let y = RIM; y < height - RIM; y++)
      for (let i = y * width + RIM; i < (y + 1) * width - RIM; i++) {
        if (present[i] === 0) continue;
        squares += taken[i] * taken[i];
        smooth += soft[i] * soft[i];
        count++;
      }
    return { squares, smooth, count };
  });
}

export const bothTaken = (a: TakenOut, b: TakenOut): TakenOut => ({
  squares: a.squares + b.squares,
  smooth: a.smooth + b.smooth,
  count: a.count + b.count
});

/** How strong it is, as σ; and how much of it, 0…1, is alike in samples beside each other, as noise is not. */
export function takenFigures({ squares, smooth, count }: TakenOut): { sigma: number; structure: number } {
  if (count === 0 || squares === 0) return { sigma: 0, structure: 0 };
  return {
    sigma: Math.sqrt(squares / count),
    structure: Math.min(1, Math.max(0, (smooth / squares - WHITE) / (1 - WHITE)))
  };
}
