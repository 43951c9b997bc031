import { describe, expect, it } from 'vitest';
import { makeCurve, readCurve } from '../curve';
import { maskOf, maskSchema } from '../document';
import { histogram } from '../measure/histogram';
import { coverage, equalised, levelled, stretched, whyBound } from './shape';

const of = (values: number[]): ReturnType<typeof histogram> =>
  histogram(Float32Array.from(values), values.length, 256);
const even = (low: number, high: number, n = 5000): number[] =>
  Array.from({ length: n }, (_, i) => low + ((high - low) * i) / n);

describe('shaping a mask', () => {
  it('makes a transition harder and softer about its middle', () => {
    const points = [
      [0, 0],
      [0.4, 0],
      [0.6, 1],
      [1, 1]
    ] as const;
    const half = stretched(points, 0.5);
    expect(half.map(([x]) => x)).toEqual([0, expect.closeTo(0.45, 2), expect.closeTo(0.55, 2), 1]);
    expect(stretched(half, 2).map(([x]) => x)[1]).toBeCloseTo(0.4, 2);
    // A falling one stays falling.
    const falls = stretched(
      [
        [0, 1],
        [1, 0]
      ],
      0.5
    );
    expect(falls[0][1]).toBe(1);
    expect(falls.find(([x]) => Math.abs(x - 0.25) < 0.01)?.[1]).toBe(1);
    // However hard, its points stay apart.
    const hardest = stretched(points, 1e-6);
    hardest.slice(1).forEach(([x], i) => expect(x - hardest[i][0]).toBeGreaterThan(1e-4));
  });

  it('levels from the darkest to the lightest value', () => {
    const points = levelled(of(even(0.2, 0.7)));
    expect(points.at(0)).toEqual([0, 0]);
    expect(points[1][0]).toBeCloseTo(0.2, 1);
    expect(points[2][0]).toBeCloseTo(0.7, 1);
    expect(levelled(of(even(0.2, 0.7)), true)[0]).toEqual([0, 1]);
    expect(levelled(of([0.5, 0.5])).length).toBeGreaterThan(1);
  });

  it('equalises: every value gets an equal share', () => {
    const values = even(0, 1).map((v) => v ** 3);
    const curve = makeCurve(equalised(of(values)));
    const counts = [0, 0, 0, 0];
    values.forEach((v) => counts[Math.min(3, Math.max(0, Math.floor(4 * readCurve(curve, v))))]++);
    counts.forEach((count) => expect(Math.abs(count / values.length - 0.25)).toBeLessThan(0.03));
  });

  it('tells how much a mask covers', () => {
    expect(coverage(of([0, 0, 0, 1]))).toBe(25);
    expect(coverage(of(even(0, 1)))).toBeCloseTo(50, 0);
    expect(coverage(of([]))).toBe(0);
  });

  it('tells what binds a mask to its picture', () => {
    expect(whyBound(maskOf({ kind: 'distance', to: [50, 0, 0], space: 'lab', range: 20 }))).toEqual([]);
    const bound = maskSchema.parse({
      terms: [
        { source: { kind: 'paint', strokes: [] } },
        { source: { kind: 'ramp', from: [0, 0], to: [1, 1] } },
        { source: { kind: 'channel', channel: 'lum', of: { picture: 'p' } } }
      ],
      blur: 3
    });
    expect(whyBound(bound)).toEqual(['paint', 'a ramp', 'another picture', 'neighbours (grow, blur)']);
  });
});
