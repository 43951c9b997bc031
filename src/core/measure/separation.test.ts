import { describe, expect, it } from 'vitest';
import { makeCurve, readCurve } from '../curve';
import { randomStream, scattered } from '../random';
import { areaUnderRoc, discriminant, separations, transition } from './separation';

const random = randomStream(12);
const around = (mean: number, spread: number, n = 400): Float32Array =>
  Float32Array.from({ length: n }, () => mean + spread * scattered(random));

describe('the area under the ROC curve', () => {
  it.each([
    [[3, 4], [1, 2], 1],
    [[1, 2], [3, 4], 0],
    [[1, 2, 3], [1, 2, 3], 0.5],
    // Pairs won: 2 over 1, 3 over 1, 3 over 2; tied: 2 with 2. 3.5 of 4.
    [[2, 3], [1, 2], 0.875],
    [[], [1], 0.5]
  ])('of %j against %j is %d', (want, avoid, area) => expect(areaUnderRoc(want, avoid)).toBe(area));

  it('is the part of pairs that are won, counted one by one', () => {
    const [a, b] = [around(0.5, 0.1, 70), around(0.45, 0.1, 90)];
    let won = 0;
    for (const x of a) for (const y of b) won += x > y ? 1 : x === y ? 0.5 : 0;
    expect(areaUnderRoc(a, b)).toBeCloseTo(won / (70 * 90), 12);
  });
});

describe('the transition', () => {
  const share = (
    values: Float32Array,
    curve: readonly (readonly [number, number])[],
    test: (v: number) => boolean
  ): number => {
    const ready = makeCurve(curve as [number, number][]);
    return values.filter((v) => test(readCurve(ready, Math.min(1, Math.max(0, v))))).length / values.length;
  };

  it.each([
    ['rising', 0.7, 0.4],
    ['falling', 0.3, 0.6]
  ])('lies between two sets that a gap parts: %s', (_, high, low) => {
    const [want, avoid] = [around(high, 0.03), around(low, 0.03)];
    const curve = transition(want, avoid);
    expect(share(want, curve, (v) => v > 0.8)).toBeGreaterThan(0.97);
    expect(share(avoid, curve, (v) => v < 0.1)).toBeGreaterThan(0.97);
    curve.slice(1).forEach(([x], i) => expect(x - curve[i][0]).toBeGreaterThan(1e-4));
  });

  it('lies over the overlap where there is one, and is a curve where the sets are one', () => {
    const [want, avoid] = [around(0.55, 0.1), around(0.45, 0.1)];
    const curve = transition(want, avoid);
    expect(share(want, curve, (v) => v > 0.5)).toBeGreaterThan(0.6);
    expect(share(avoid, curve, (v) => v < 0.5)).toBeGreaterThan(0.6);
    expect(transition([0.5], [0.5]).length).toBeGreaterThan(1);
    expect(transition([1, 1], [0, 0]).length).toBeGreaterThan(1);
  });
});

describe('Fisher’s discriminant', () => {
  it('gives the worked weights of two sets with known scatter', () => {
    // Four points about each mean: variances 0.01 and 0.04, no covariance; means 0.2 apart in x, 0.4 in y.
    const cloud = (x: number, y: number): [Float32Array, Float32Array] => [
      Float32Array.of(x - 0.1, x + 0.1, x - 0.1, x + 0.1),
      Float32Array.of(y - 0.2, y - 0.2, y + 0.2, y + 0.2)
    ];
    const { weights, apart } = discriminant(cloud(0.5, 0.6), cloud(0.3, 0.2));
    // S adds the two sets: 0.02 and 0.08. 0.2/0.02 = 10, 0.4/0.08 = 5; √(10·0.2 + 5·0.4) = 2.
    expect(weights[0]).toBeCloseTo(10, 1);
    expect(weights[1]).toBeCloseTo(5, 1);
    expect(apart).toBeCloseTo(2, 2);
  });
});

describe('the candidates', () => {
  const set = (r: number, g: number, b: number, spread: number): Float32Array[] =>
    [r, g, b].map((v) => around(v, spread));

  it('are ranked by how well they part the sets', () => {
    const found = separations(set(0.2, 0.6, 0.6, 0.03), set(0.6, 0.6, 0.3, 0.03), 'coded');
    expect(found.length).toBeGreaterThan(18);
    found.slice(1).forEach(({ auc }, i) => expect(auc).toBeLessThanOrEqual(found[i].auc));
    const auc = (id: string): number =>
      found.find(({ source }) => source.kind === 'channel' && source.channel === id)!.auc;
    expect(auc('rgb.r')).toBe(1);
    expect(auc('rgb.g')).toBeLessThan(0.6);
    const kinds = new Set(found.map(({ source }) => source.kind));
    expect(kinds).toEqual(new Set(['channel', 'distance', 'toward', 'mix']));
  });

  it('finds the mix that no single channel can replace', () => {
    // Both channels vary together along one line; only their difference tells the sets apart.
    const line = (offset: number): Float32Array[] => {
      const t = around(0.5, 0.15);
      return [t, t.map((v) => v + offset + 0.01 * scattered(random)), around(0.5, 0.02)];
    };
    const [first] = separations(line(0.06), line(0), 'coded');
    expect(first.source.kind).toBe('mix');
    expect(first.auc).toBeGreaterThan(0.99);
    const { weights } = first.source as { weights: Record<string, number> };
    expect(weights['rgb.g']).toBeGreaterThan(0);
    expect(weights['rgb.r']).toBeLessThan(0);
  });
});
