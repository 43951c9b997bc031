import { eitherWay, simd } from './arena';

/** Whether one of the first `n` samples of three planes is missing. */
export const missesAny = ([r, g, b]: readonly Float32Array[], n: number): boolean =>
  eitherWay(
    [r, g, b],
    (x, y, z) => simd.anyMissing(x, y, z, n) !== 0,
    () => {
      for (let i = 0; i < n; i++) {
        const sum = r[i] + g[i] + b[i];
        if (sum !== sum) return true;
      }
      return false;
    }
  );

/** Whether two planes hold the same `n` samples, the missing ones among them. */
export const sameSamples = (a: Float32Array, b: Float32Array, n: number): boolean =>
  eitherWay(
    [a, b],
    (x, y) => simd.samePlane(x, y, n) !== 0,
    () => {
      for (let i = 0; i < n; i++) if (a[i] !== b[i] && (a[i] === a[i] || b[i] === b[i])) return false;
      return true;
    }
  );
