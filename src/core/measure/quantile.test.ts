import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { quantiles } from './quantile';

const random = randomStream(31);

describe('quantiles', () => {
  it('are the known answers of type 7', () => {
    // By hand: of 1 2 4 8 the places are 0.75, 1.5 and 2.25 between the values.
    const plane = Float32Array.of(8, 1, 4, 2);
    expect(quantiles(plane, 4, [0, 0.25, 0.5, 0.75, 1])).toEqual([1, 1.75, 3, 5, 8]);
  });

  it('are those of the sorted values, below and above 0, equal ones too', () => {
    const plane = Float32Array.from({ length: 4999 }, () => Math.round(300 * (random() - 0.4)) / 100);
    const sorted = Float32Array.from(plane).sort();
    const parts = [0, 0.001, 0.1, 0.333, 0.5, 0.9, 0.999, 1];
    quantiles(plane, plane.length, parts).forEach((found, k) => {
      const place = parts[k] * 4998;
      const [low, high] = [sorted[Math.floor(place)], sorted[Math.ceil(place)]];
      expect(found).toBeCloseTo(low + (high - low) * (place % 1), 6);
    });
  });

  it('lose nothing by one hot sample: a faint sky keeps its own precision', () => {
    // A sky from 0.0010 to 0.0011 in steps of 1e-8, and a sample that is 60000 times as bright.
    const sky = Float32Array.from({ length: 10_001 }, (_, i) => 0.001 + i * 1e-8);
    const hot = Float32Array.from([...sky, 60]);
    const [median, low] = quantiles(hot, hot.length, [0.5, 0.1]);
    expect(Math.abs(median - 0.00105)).toBeLessThan(2e-8);
    expect(Math.abs(low - 0.00101)).toBeLessThan(2e-8);
  });

  it('leave out what is missing, and what stands behind the first n', () => {
    const plane = Float32Array.of(0.3, Number.NaN, 0.1, 0.2, 9);
    expect(quantiles(plane, 4, [0.5])[0]).toBeCloseTo(0.2, 6);
    expect(quantiles(Float32Array.of(Number.NaN), 1, [0.5])).toEqual([0]);
    expect(quantiles(new Float32Array(9).fill(-0.4), 9, [0.03])[0]).toBeCloseTo(-0.4, 6);
    expect(quantiles(Float32Array.of(-0, 0), 2, [0, 1]).map(Math.abs)).toEqual([0, 0]);
  });
});
