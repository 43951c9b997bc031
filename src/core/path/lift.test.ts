import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { floatFrame, planOf, stepOf } from '../testing';
import { evaluate } from './evaluate';
import { isDark, liftFor, ownLift, skiesOf } from './lift';
import { screenPixels, withScreenPixels } from './view';

const [width, height] = [120, 80];
const random = randomStream(12);
/** A dark sky with a bright thing in it; red, green and blue stand at levels of their own. */
const dark = floatFrame(
  width,
  height,
  Array.from({ length: width * height }, (_, i) => {
    const thing = Math.hypot((i % width) - 60, Math.floor(i / width) - 40) < 8 ? 0.02 : 0;
    return [0.008, 0.01, 0.012].map((v) => v + thing + 0.0004 * (random() + random() + random() - 1.5));
  }).flat()
);
const whole = { x: 0, y: 0, width, height };

describe('the view lift', () => {
  it('brings a sky of 1 % to 14 %, black five deviations below it; worked by hand', () => {
    const { black, middle } = liftFor([{ level: 0.01, sigma: 0.0014826 }], 'lifted', false);
    expect(black[0]).toBeCloseTo(0.005, 6);
    // v = 0.005/0.995; m = v(y − 1)/(2yv − y − v) for y = 0.14.
    expect(middle[0]).toBeCloseTo((0.0050251 * 0.86) / (0.14 + 0.0050251 - 0.28 * 0.0050251), 5);
    expect(liftFor([{ level: 0.01, sigma: 0.0014826 }], 'more', false).black[0]).toBeCloseTo(0.0075, 6);
  });

  it('is one for all channels, with the lowest black, or each by its own sky', () => {
    const skies = [0.008, 0.01, 0.012].map((level) => ({ level, sigma: 0.0002 }));
    const together = liftFor(skies, 'lifted', true);
    expect(new Set(together.black).size).toBe(1);
    expect(together.black[0]).toBeCloseTo(0.008 - (5 * 0.0002) / 1.4826, 6);
    expect(new Set(liftFor(skies, 'lifted', false).black).size).toBe(3);
    expect(liftFor([{ level: 0.01, sigma: 0 }], 'lifted', false).middle).toEqual([0.5]);
  });

  it('shows what was black, each alone at the same grey, and leaves missing samples black', () => {
    const plan = planOf(dark, [], [], 'linear');
    const skies = skiesOf(plan);
    expect(isDark(skies)).toBe(true);
    const raster = evaluate(plan, 0, whole);
    const plainly = screenPixels(raster, 'colour');
    const at = (pixels: Uint8ClampedArray, x: number, y: number): number[] => [
      ...pixels.slice(4 * (y * width + x), 4 * (y * width + x) + 3)
    ];
    const lift = liftFor(skies, 'lifted', false);
    raster.planes[0][3] = Number.NaN;
    withScreenPixels(
      raster,
      'colour',
      (pixels) => {
        const mean = [0, 0, 0];
        for (let i = 0; i < 400; i++)
          for (let c = 0; c < 3; c++) mean[c] += pixels[4 * (width * 70 + i) + c] / 400;
        for (const v of mean) expect(Math.abs(v / 255 - 0.14)).toBeLessThan(0.02);
        expect(at(pixels, 60, 40)[1]).toBeGreaterThan(3 * at(pixels, 10, 10)[1]);
        expect(at(pixels, 3, 0)[0]).toBe(0);
      },
      lift
    );
    // What is encoded alone is dark, and stays what is exported.
    expect(at(plainly, 60, 40)[1]).toBeLessThan(60);
  });

  it('is none of a coded picture, nor of one that can be seen', () => {
    expect(ownLift(planOf(dark, [], [], 'coded'))).toBeNull();
    expect(ownLift(planOf(dark, [stepOf('stretch', {})], [], 'linear'))).toBeNull();
    const bright = floatFrame(8, 8, Array(192).fill(0.3) as number[]);
    expect(ownLift(planOf(bright, [], [], 'linear'))).toBeNull();
    expect(ownLift(planOf(dark, [], [], 'linear'))).not.toBeNull();
  });
});
