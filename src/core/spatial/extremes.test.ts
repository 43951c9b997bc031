import { describe, expect, it } from 'vitest';
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
});
