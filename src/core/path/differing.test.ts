import { converter, differenceCiede2000 } from 'culori';
import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import type { Raster } from '../raster/raster';
import {
  bothDifferences,
  differenceFigures,
  differentSizes,
  measureDifference,
  withDifference
} from './differing';

type Colour = readonly [number, number, number];

const raster = (colours: readonly Colour[], encoding: Raster['encoding'] = 'coded', x = 0): Raster => ({
  ...{ x, y: 3, width: colours.length, height: 1, encoding, alpha: null },
  planes: [0, 1, 2].map((c) => Float32Array.from(colours, (rgb) => rgb[c]))
});
const seen = (one: Raster, other: Raster, by: 'samples' | 'colours', times: number): number[][] =>
  withDifference(one, other, { by, times }, ({ planes, encoding, alpha }) => {
    expect([encoding, alpha]).toEqual(['coded', null]);
    return planes.map((plane) => [...plane]);
  });

const random = randomStream(17);
const some = (n: number): Colour[] =>
  Array.from({ length: n }, () => [random(), random(), random()] as const);

const lab = converter('lab');
const theirs = differenceCiede2000();
/** culori's formula on culori's LAB of D50, which it would put into D65 otherwise. */
function deltaE(one: Colour, other: Colour): number {
  const [a, b] = [one, other].map(([r, g, b]) => ({
    ...lab({ mode: 'rgb', r, g, b }),
    mode: 'lab65' as const
  }));
  return theirs(a, b);
}

describe('the difference of two pictures', () => {
  it('is that of each sample, without its sign, as strong as is asked', () => {
    const [r, g, b] = seen(raster([[0.5, 0.25, 1]]), raster([[0.25, 0.5, 1]]), 'samples', 4);
    expect([...r, ...g, ...b]).toEqual([1, 1, 0]);
  });

  it('is ΔE 2000 a hundredth in grey, as culori has it', () => {
    const [one, other] = [some(200), some(200)];
    const [r, g, b] = seen(raster(one), raster(other), 'colours', 2);
    expect(g).toEqual(r);
    expect(b).toEqual(r);
    // culori's LAB is that of a matrix of fewer digits: ΔE 0.01.
    one.forEach((colour, i) => expect(Math.abs(r[i] - deltaE(colour, other[i]) / 50)).toBeLessThan(2e-4));
  });

  it('of linear pictures is that of their light as it stands, and coded where only one is linear', () => {
    const half: Colour = [0.2140411, 0.2140411, 0.2140411];
    const black: Colour = [0, 0, 0];
    const between = (a: Raster, b: Raster): number => seen(a, b, 'samples', 1)[0][0];
    expect(between(raster([half], 'linear'), raster([black], 'linear'))).toBeCloseTo(0.21404, 5);
    // IEC 61966-2-1: 0.2140411 of the light is coded 0.5.
    expect(between(raster([half], 'linear'), raster([black]))).toBeCloseTo(0.5, 5);
    expect(between(raster([black]), raster([half], 'linear'))).toBeCloseTo(0.5, 5);
    const grey: Colour = [0.5, 0.5, 0.5];
    expect(seen(raster([half], 'linear'), raster([grey]), 'colours', 1)[0][0]).toBeLessThan(1e-5);
  });

  it('has mean, 95th percentile and largest with its place, in one piece or in parts', () => {
    const [one, other] = [some(4000), some(4000)];
    for (const by of ['samples', 'colours'] as const) {
      const values =
        by === 'samples'
          ? one.flatMap((rgb, i) => rgb.map((v, c) => Math.abs(v - other[i][c])))
          : one.map((rgb, i) => deltaE(rgb, other[i]) / 100);
      const sorted = [...values].sort((a, b) => a - b);
      const parts = [0, 1000, 2500].map((from, k) => {
        const to = [1000, 2500, 4000][k];
        const piece = (all: readonly Colour[]): Raster => raster(all.slice(from, to), 'coded', from);
        return measureDifference(piece(one), piece(other), by);
      });
      const whole = measureDifference(raster(one), raster(other), by);
      for (const figures of [differenceFigures(whole)!, differenceFigures(parts.reduce(bothDifferences))!]) {
        expect(figures.mean).toBeCloseTo(values.reduce((sum, v) => sum + v, 0) / values.length, 4);
        expect(Math.abs(figures.most - sorted[Math.floor(0.95 * values.length)])).toBeLessThan(1e-3);
        expect(figures.largest).toBeCloseTo(sorted.at(-1)!, 3);
        const at = values.indexOf(sorted.at(-1)!);
        expect(figures.at).toEqual({ x: by === 'samples' ? Math.floor(at / 3) : at, y: 3 });
      }
    }
  });

  it('is missing where one of the two is, and is counted nowhere there', () => {
    const nan: Colour = [Number.NaN, Number.NaN, Number.NaN];
    const one = raster([nan, [0.5, 0.5, 0.5], [0.5, 0.5, 0.5]]);
    const other = raster([[0, 0, 0], nan, [0.25, 0.5, 0.5]]);
    for (const by of ['samples', 'colours'] as const)
      expect(seen(one, other, by, 1)[0].map(Number.isNaN)).toEqual([true, true, false]);
    const figures = differenceFigures(measureDifference(one, other, 'samples'))!;
    expect(figures.mean).toBeCloseTo(0.25 / 3, 6);
    expect(figures).toMatchObject({ largest: 0.25, at: { x: 2, y: 3 }, apart: 1 });
    expect(differenceFigures(measureDifference(raster([nan]), raster([nan]), 'samples'))).toBeNull();
  });

  it('of a picture and itself is nothing; what lies beyond 0…1 counts as it is seen', () => {
    const one = raster([...some(20), [1.7, -0.4, 0.2], [0, 0, 0]]);
    const clamped = raster([[1, 0, 0.2]]);
    for (const by of ['samples', 'colours'] as const) {
      const nothing = { mean: 0, most: 0, largest: 0, apart: 0 };
      expect(differenceFigures(measureDifference(one, one, by))).toMatchObject(nothing);
      expect(differenceFigures(measureDifference(raster([[1.7, -0.4, 0.2]]), clamped, by))).toMatchObject(
        nothing
      );
    }
  });

  it('can be seen of pictures of one size alone', () => {
    expect(differentSizes({ width: 3, height: 2 }, { width: 3, height: 2 })).toBeNull();
    expect(differentSizes({ width: 2400, height: 1600 }, { width: 960, height: 640 })).toMatch(
      /2400 × 1600.*960 × 640/
    );
  });
});
