import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { clippedCounts, counted, histogram, meanOf } from './histogram';

const random = randomStream(31);
const plane = Float32Array.from({ length: 5000 }, () => 1.4 * random() - 0.2);

describe('a histogram', () => {
  it('counts every number once, those beyond its ends apart', () => {
    const { counts, below, above, total } = histogram(plane, plane.length, 16);
    expect(total).toBe(5000);
    expect(counts.reduce((a, b) => a + b, 0)).toBe(5000);
    expect(below).toBe(plane.filter((v) => v < 0).length);
    expect(above).toBe(plane.filter((v) => v > 1).length);
    // The fourth of sixteen even bins, counted by hand.
    expect(counts[3]).toBe(plane.filter((v) => v >= 3 / 16 && v < 4 / 16).length);
  });

  it('is the same counted in one piece and in parts', () => {
    const part = histogram(plane, 1234, 32);
    expect(counted(part, plane.subarray(1234), plane.length - 1234)).toEqual(
      histogram(plane, plane.length, 32)
    );
  });

  it('leaves missing values out', () => {
    const some = Float32Array.of(0.1, Number.NaN, 0.9);
    expect(histogram(some, 3, 2)).toMatchObject({ total: 2, counts: Float64Array.of(1, 1) });
    expect(meanOf(some, 3)).toBeCloseTo(0.5, 6);
    expect(meanOf(new Float32Array(0), 0)).toBe(0);
  });

  it('takes only the first n values', () => {
    expect(histogram(Float32Array.of(0.1, 0.2, 0.9), 2, 4).total).toBe(2);
  });

  it('tells what is clipped at either end, the ends themselves too, and what is missing at neither', () => {
    expect(clippedCounts(Float32Array.of(-0.1, 0, 1e-9, 0.5, 1, 1.2, 7, Number.NaN))).toEqual({
      low: 2,
      high: 3
    });
  });
});
