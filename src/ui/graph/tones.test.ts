import { expect, it } from 'vitest';
import type { Histogram } from '$core/measure/histogram';
import { tonePath } from './tones';

const of = (...counts: number[]): Histogram => ({
  low: 0,
  high: 1,
  counts: Float64Array.from(counts),
  below: 0,
  above: 0,
  total: counts.reduce((a, b) => a + b, 0)
});
const heights = (path: string): number[] => path.split(' ').map((p) => Number(p.split(',')[1]));

it('draws a histogram by the root of its counts, the clipped ends out of the scale', () => {
  // Roots 3, 2, 1: of 40 high, less 2 that stay free above.
  const path = tonePath(of(900, 9, 4, 1, 0), 100, 40, false);
  expect(heights(path)).toEqual([2, 2, 40 - (2 / 3) * 38, 40 - 38 / 3, 40].map((v) => expect.closeTo(v, 1)));
  expect(path.split(' ')[0].startsWith('10.0,')).toBe(true);
});

it('closes the shape along the bottom where it is filled', () => {
  const path = tonePath(of(1, 1, 1), 30, 20, true);
  expect(path.startsWith('0,20 ')).toBe(true);
  expect(path.endsWith(' 30,20')).toBe(true);
});

it('draws nothing but the bottom of an empty histogram', () => {
  expect(new Set(heights(tonePath(of(0, 0, 0, 0), 30, 20, false)))).toEqual(new Set([20]));
});
