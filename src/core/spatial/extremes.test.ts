import { describe, expect, it } from 'vitest';
import { inRoom, takePlane } from '../kernels/arena';
import { randomStream } from '../random';
import { extremes } from './extremes';
import type { Field } from './field';

const GAP = Number.NaN;

function of(rows: readonly (readonly number[])[], r: number): { low: number[]; high: number[] } {
  const [width, height] = [rows[0].length, rows.length];
  const plane = Float32Array.from(rows.flat());
  const missing = plane.some(Number.isNaN);
  const field = { ...{ x: 0, y: 0, width, height }, present: missing ? plane.map((v) => +(v === v)) : null };
  const [low, high] = [new Float32Array(plane.length), new Float32Array(plane.length)];
  extremes(plane, low, high, field as unknown as Field, r);
  return { low: [...low], high: [...high] };
}

describe('the least and the largest about each', () => {
  it('are of the square that lies in the picture, by hand', () => {
    const { low, high } = of(
      [
        [5, 1, 7, 2],
        [3, 9, 4, 8],
        [6, 0, 2, 5]
      ],
      1
    );
    expect(low).toEqual([1, 1, 1, 2, 0, 0, 0, 2, 0, 0, 0, 2]);
    expect(high).toEqual([9, 9, 9, 8, 9, 9, 9, 8, 9, 9, 9, 8]);
  });

  it('of a reach beyond the picture are those of all of it, and of a reach of 0 the sample', () => {
    expect(of([[4, -2, 3]], 9)).toEqual({ low: [-2, -2, -2], high: [4, 4, 4] });
    expect(of([[4], [-2]], 0)).toEqual({ low: [4, -2], high: [4, -2] });
  });

  it('leave missing samples out, and are missing where none is there', () => {
    const { low, high } = of([[GAP, GAP, GAP, 3, 8]], 1);
    expect(low.slice(2)).toEqual([3, 3, 3]);
    expect(high.slice(2)).toEqual([3, 8, 8]);
    expect(low[0]).toBeGreaterThan(high[0]);
  });

  // Windows are doubled until they are as wide: reaches about powers of two, and wider than the picture.
  it.each([
    [1, 1, 0],
    [1, 9, 3],
    [7, 5, 1],
    [19, 11, 2],
    [18, 12, 3],
    [21, 13, 4],
    [33, 9, 7],
    [37, 22, 8],
    [40, 17, 9],
    [16, 16, 25]
  ])('%i × %i samples, %i to each side: by kernels, by the plain way, and one by one', (width, height, r) => {
    const random = randomStream(width * 100 + r);
    const plane = Float32Array.from({ length: width * height }, () => random() - 0.5);
    const field = { x: 0, y: 0, width, height, present: null } as unknown as Field;
    const square = (x: number, y: number): number[] => {
      const found: number[] = [];
      for (let v = Math.max(0, y - r); v <= Math.min(height - 1, y + r); v++)
        found.push(...plane.subarray(v * width + Math.max(0, x - r), v * width + Math.min(width, x + r + 1)));
      return found;
    };
    const at = (i: number): number[] => square(i % width, Math.floor(i / width));
    const [least, most] = [Math.min, Math.max].map((of) => Array.from(plane, (_, i) => of(...at(i))));
    const [low, high] = [new Float32Array(plane.length), new Float32Array(plane.length)];
    // Nothing lies in the kernels' memory: the plain way.
    extremes(plane, low, high, field, r);
    expect([Array.from(low), Array.from(high)]).toEqual([least, most]);
    inRoom(
      () => {
        const [a, b] = [takePlane(plane.length), takePlane(plane.length)];
        extremes(plane, a, b, field, r);
        expect([Array.from(a), Array.from(b)]).toEqual([least, most]);
      },
      64 * (plane.length + width + 2 * r + 64)
    );
  });
});
