import type { Planes } from '../colour';
import { takePlane } from '../kernels/arena';
import { midtone } from './stretch';

/** How a linear picture that is too dark to see is lifted for the eye: the view alone, nothing that is computed. */
export interface Lift {
  /** A channel each: what is shown black, and what is shown at one half. */
  readonly black: readonly number[];
  readonly middle: readonly number[];
}

/** The first `n` samples of linear planes as they are seen, coded, within the kernels' room. */
export const liftedPlanes = (planes: Planes, { black, middle }: Lift, n: number): Planes =>
  planes.map((plane, c) => {
    const to = takePlane(n);
    const scale = 1 / (1 - black[c]);
    const m = middle[c];
    for (let i = 0; i < n; i++) {
      const v = (plane[i] - black[c]) * scale;
      to[i] = v <= 0 ? 0 : v >= 1 ? 1 : midtone(m, v);
    }
    return to;
  });
