import { describe, expect, it } from 'vitest';
import { randomStream, scattered } from '../random';
import { STAR_REACH, starPeaks, starPlace } from './star-places';

const SIDE = 2 * STAR_REACH + 1;
/** Parts of a pixel, each way, over which a star's light is added up. */
const FINE = 8;

interface Star {
  readonly x: number;
  readonly y: number;
  readonly sigma: number;
  readonly light: number;
  /** How much longer it is along x. */
  readonly ratio?: number;
}

/** Stars as a sensor gathers them: the mean of a normal distribution's density over each pixel. */
function skyOfStars(width: number, height: number, stars: readonly Star[], ground = 0): Float32Array {
  const plane = new Float32Array(width * height).fill(ground);
  for (const { x, y, sigma, light, ratio = 1 } of stars)
    for (let j = 0; j < height; j++)
      for (let i = 0; i < width; i++) {
        if (Math.hypot(i - x, j - y) > 12 * sigma * ratio) continue;
        let sum = 0;
        for (let v = 0; v < FINE; v++)
          for (let u = 0; u < FINE; u++) {
            const dx = (i + (u + 0.5) / FINE - x) / (sigma * ratio);
            const dy = (j + (v + 0.5) / FINE - y) / sigma;
            sum += Math.exp(-0.5 * (dx * dx + dy * dy));
          }
        plane[j * width + i] += (light * sum) / FINE ** 2;
      }
  return plane;
}

const MIDDLE = SIDE / 2;
const one = (dx: number, dy: number, more: Partial<Star> = {}): Star => ({
  ...{ x: MIDDLE + dx, y: MIDDLE + dy, sigma: 1.4, light: 0.5 },
  ...more
});

describe('the place of a star', () => {
  it.each([1, 1.4, 2, 2.6])('with a σ of %d px is told to two hundredths of a pixel', (sigma) => {
    for (const [dx, dy] of [
      [0, 0],
      [0.25, -0.4],
      [-0.5, 0.5],
      [1.3, -0.9]
    ]) {
      const found = starPlace(skyOfStars(SIDE, SIDE, [one(dx, dy, { sigma })], 0.01), SIDE)!;
      expect(Math.abs(found.x - MIDDLE - dx)).toBeLessThan(0.02);
      expect(Math.abs(found.y - MIDDLE - dy)).toBeLessThan(0.02);
    }
  });

  it('is told of a long one, and of one whose core is clipped', () => {
    const long = starPlace(skyOfStars(SIDE, SIDE, [one(0.3, 0.2, { ratio: 1.5 })]), SIDE)!;
    expect(Math.hypot(long.x - MIDDLE - 0.3, long.y - MIDDLE - 0.2)).toBeLessThan(0.03);
    const clipped = skyOfStars(SIDE, SIDE, [one(0.3, 0.2, { light: 4 })]).map((v) => Math.min(1, v));
    const found = starPlace(clipped, SIDE)!;
    expect(Math.hypot(found.x - MIDDLE - 0.3, found.y - MIDDLE - 0.2)).toBeLessThan(0.06);
  });

  it('grows with the light, so that brighter ones come first', () => {
    const lights = [0.1, 0.2, 0.4].map(
      (light) => starPlace(skyOfStars(SIDE, SIDE, [one(0.1, 0, { light })]), SIDE)!.light
    );
    expect(lights[1] / lights[0]).toBeCloseTo(2, 3);
    expect(lights[2] / lights[0]).toBeCloseTo(4, 3);
  });

  it('is none of a hot sample, of nothing, beside a missing sample, or far off the middle', () => {
    const hot = new Float32Array(SIDE * SIDE);
    hot[STAR_REACH * SIDE + STAR_REACH] = 0.8;
    expect(starPlace(hot, SIDE)).toBeNull();
    expect(starPlace(new Float32Array(SIDE * SIDE).fill(0.2), SIDE)).toBeNull();
    const missing = skyOfStars(SIDE, SIDE, [one(0, 0)]);
    missing[STAR_REACH * SIDE + STAR_REACH + 1] = Number.NaN;
    expect(starPlace(missing, SIDE)).toBeNull();
    expect(starPlace(skyOfStars(SIDE, SIDE, [one(8, 8)]), SIDE)).toBeNull();
  });
});

describe('the peaks of stars', () => {
  const [width, height] = [200, 140];
  const random = randomStream(17);
  /** On a loose grid, so that none stands in another's light. */
  const stars = Array.from({ length: 24 }, (_, i): Star => {
    const [column, row] = [i % 6, Math.floor(i / 6)];
    return {
      x: 18 + 32 * column + 6 * random(),
      y: 18 + 32 * row + 6 * random(),
      sigma: 1.5,
      light: 0.05 + 0.01 * i
    };
  });
  const plane = skyOfStars(width, height, stars, 0.02).map((v) => v + 0.002 * scattered(random));

  it('are all of them and no other, the brightest first', () => {
    const found = starPeaks(plane, width, height, 8, 100);
    expect(found).toHaveLength(stars.length);
    for (const { x, y } of stars)
      expect(Math.min(...found.map((f) => Math.hypot(f.x - x, f.y - y)))).toBeLessThan(1);
    const { x, y } = stars[23];
    const few = starPeaks(plane, width, height, 8, 5);
    expect(few).toHaveLength(5);
    expect(few.slice(0, 2).some((f) => Math.hypot(f.x - x, f.y - y) < 1)).toBe(true);
  });

  it('are none of an even plane, of noise, or of a single pixel', () => {
    expect(starPeaks(new Float32Array(64).fill(0.3), 8, 8, 8, 9)).toEqual([]);
    const noise = new Float32Array(width * height).map(() => 0.02 + 0.002 * scattered(random));
    expect(starPeaks(noise, width, height, 8, 100)).toEqual([]);
    expect(starPeaks(Float32Array.of(0.5), 1, 1, 8, 9)).toEqual([]);
  });

  it('are none beside a missing sample', () => {
    const { x, y } = stars[7];
    const holed = plane.slice();
    holed[Math.floor(y) * width + Math.floor(x)] = Number.NaN;
    const found = starPeaks(holed, width, height, 8, 100);
    expect(found.some((f) => Math.hypot(f.x - x, f.y - y) < 3)).toBe(false);
    expect(found).toHaveLength(stars.length - 1);
  });
});
