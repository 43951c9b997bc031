import { eitherWay, matrixAt, simd } from '../kernels/arena';
import type { Planes } from '.';

/** Three rows of the weights of three planes, and what is added. */
export type Rows3 = readonly (readonly number[])[];

/** Three planes by a 3×4 matrix, the first `n` samples. `out` may be `source`. */
export function byMatrix(source: Planes, [p, q, s]: Rows3, out: Planes, n: number): void {
  const [x, y, z] = source;
  const [u, v, w] = out;
  const [p0, p1, p2, pc] = p;
  const [q0, q1, q2, qc] = q;
  const [s0, s1, s2, sc] = s;
  const matrix = [p0, p1, p2, pc, q0, q1, q2, qc, s0, s1, s2, sc];
  eitherWay(
    [x, y, z, u, v, w],
    (from0, from1, from2, to0, to1, to2) =>
      simd.mixThree(from0, from1, from2, to0, to1, to2, n, matrixAt(matrix)),
    () => {
      for (let i = 0; i < n; i++) {
        const a = x[i];
        const b = y[i];
        const c = z[i];
        u[i] = p0 * a + p1 * b + p2 * c + pc;
        v[i] = q0 * a + q1 * b + q2 * c + qc;
        w[i] = s0 * a + s1 * b + s2 * c + sc;
      }
    }
  );
}
