import { describe, expect, it } from 'vitest';
import { inArena, inRoom, takePlane } from './arena';
import { missesAny, sameSamples } from './compare';

/** Planes of so many samples, and of what was left behind them in the kernels' memory: it must not count. */
function planes(n: number, behind: number): Float32Array[] {
  return [0, 1, 2].map((c) => {
    const plane = takePlane(Math.ceil(n / 4) * 4).fill(behind);
    for (let i = 0; i < n; i++) plane[i] = 0.1 * c + i;
    return plane.subarray(0, n);
  });
}

describe.each([
  ['in the kernels’ memory', true],
  ['in arrays of their own', false]
])('planes %s', (_, fast) => {
  const each = (use: (of: Float32Array[], n: number) => void): void => {
    for (const n of [1, 2, 3, 4, 5, 7, 8, 63, 1001])
      inRoom(
        () => {
          const own = planes(n, Number.NaN);
          const taken = fast ? own : own.map((plane) => plane.slice());
          expect(inArena(taken)).toBe(fast);
          use(taken, n);
        },
        4 * 1100 * 4
      );
  };

  it('miss a sample where one of any of them is NaN, the last as well', () =>
    each((of, n) => {
      expect(missesAny(of, n)).toBe(false);
      for (const c of [0, 1, 2])
        for (const i of [0, n >> 1, n - 1]) {
          const was = of[c][i];
          of[c][i] = Number.NaN;
          expect(missesAny(of, n)).toBe(true);
          of[c][i] = was;
        }
    }));

  it('are the same where every sample is, missing or not', () =>
    each(([a, b], n) => {
      expect(sameSamples(a, b, n)).toBe(false);
      b.set(a);
      expect(sameSamples(a, b, n)).toBe(true);
      for (const i of [0, n >> 1, n - 1]) {
        b[i] = Number.NaN;
        expect(sameSamples(a, b, n)).toBe(false);
        a[i] = Number.NaN;
        expect(sameSamples(a, b, n)).toBe(true);
        a[i] = b[i] = 0.5;
      }
    }));
});
