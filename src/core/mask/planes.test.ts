import { describe, expect, it } from 'vitest';
import { inArena, inRoom, takePlane } from '../kernels/arena';
import type { Combine } from '../document/mask';
import { randomStream } from '../random';
import { largestDifference } from '../testing';
import { lyingPlain } from '../raster/geometry';
import { wholeField } from '../spatial/field';
import { growMask } from './grow';
import { addTo, clampPlane, distanceFrom, fade, joinTerm, lay, multiplyBy, scaleBy } from './planes';
import { sourceKind } from './sources';

const N = 1003;
const random = randomStream(61);
const plain = (low = -0.3, high = 1.4): Float32Array =>
  Float32Array.from({ length: N }, () => low + (high - low) * random());

/** Runs the same work on ordinary planes and on planes of the arena; the greatest difference of the first plane. */
function apart(planes: readonly Float32Array[], work: (planes: Float32Array[]) => void): number {
  return inRoom(
    () => {
      const slow = planes.map((p) => p.slice());
      const fast = planes.map((p) => {
        const plane = takePlane(N);
        plane.set(p);
        return plane;
      });
      expect(inArena(slow)).toBe(false);
      expect(inArena(fast)).toBe(true);
      work(slow);
      work(fast);
      return largestDifference(slow[0], fast[0]);
    },
    N * 4 * 12
  );
}

describe('the kernels of masks give what the plain ones do', () => {
  it.each<Combine>(['intersect', 'add', 'subtract', 'min', 'max', 'difference'])('%s', (combine) => {
    for (const [invert, amount] of [
      [false, 1],
      [true, 0.35],
      [false, 0]
    ] as const) {
      const worst = apart([plain(0, 1), plain()], ([mask, term]) =>
        joinTerm(mask, term, N, combine, invert, amount)
      );
      expect(worst).toBeLessThan(2e-7);
    }
  });

  it('clamp, with missing samples as 0', () => {
    const given = plain();
    given[7] = Number.NaN;
    expect(apart([given], ([p]) => clampPlane(p, N))).toBe(0);
    clampPlane(given, N);
    expect(given[7]).toBe(0);
    expect(Math.max(...given)).toBe(1);
  });

  it('distance, fade, sum and product', () => {
    const five = [plain(), plain(), plain(), plain(), plain()];
    expect(
      apart(five, ([out, x, y, z]) => distanceFrom([x, y, z], [0.2, 0.5, 0.4], [100, 256, 256], out, N))
    ).toBeLessThan(1e-4);
    expect(apart(five, ([base, blended, amount]) => fade(base, blended, amount, N))).toBeLessThan(5e-7);
    expect(apart(five, ([out, plane]) => addTo(out, plane, -1.7, N))).toBeLessThan(5e-7);
    expect(apart(five, ([out, plane]) => multiplyBy(out, plane, N))).toBe(0);
  });

  it('scaling and laying strokes', () => {
    const two = [plain(0, 1), plain(0, 1)];
    expect(apart(two, ([p]) => scaleBy(p, -0.6, 0.2, N))).toBeLessThan(2e-7);
    for (const erase of [false, true])
      expect(apart(two, ([out, stroke]) => lay(out, stroke, 0.7, erase, N))).toBeLessThan(2e-7);
  });

  it.each([1, 2.5, 7, 19, -3.2])('growing by %d', (radius) => {
    const field = wholeField({ x: 0, y: 0, width: 59, height: 17 });
    expect(apart([plain(0, 1)], ([p]) => growMask(p, field, radius))).toBeLessThan(2e-7);
  });

  it.each(['straight', 'round'] as const)('a %s ramp, turned and in perspective', (shape) => {
    const geometry = {
      ...lyingPlain({ width: 400, height: 300 }),
      toFrame: [0.9, -0.2, 30, 0.1, 1.1, -5, 0.0004, 0.0002, 1] as const
    };
    const kind = sourceKind('ramp');
    const given = { kind: 'ramp', shape, from: [40, 60], to: [180, 20] } as never;
    const prepared = kind.prepare(given, { geometry, picture: () => 0, mask: () => null as never } as never);
    const ground = { x: 12, y: 7, width: 59, height: 17, scale: 0.5 } as never;
    expect(apart([plain()], ([p]) => kind.fill(prepared, ground, p))).toBe(0);
  });
});
