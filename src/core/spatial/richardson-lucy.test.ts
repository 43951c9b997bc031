import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import fixture from './richardson-lucy.fixture.json';
import { wholeField } from './field';
import { spreadProducts, spreadReach, spreadSamples, type PointSpread } from './point-spread';
import { deconvolveReach, richardsonLucy } from './richardson-lucy';

const GAUSS: PointSpread = { kind: 'gauss', fwhm: 3, beta: 3.5, ratio: 1, angle: 0 };
const OVAL: PointSpread = { kind: 'moffat', fwhm: 3.4, beta: 3, ratio: 0.8, angle: 30 };

const SIDE = 96;
/** The picture of the fixture, by the formula that stands in it as well. */
const picture = Float32Array.from({ length: SIDE * SIDE }, (_, i) => {
  const [x, y] = [i % SIDE, Math.floor(i / SIDE)];
  const hill = (cx: number, cy: number, high: number): number =>
    high * Math.exp(-((x - cx) ** 2 + (y - cy) ** 2) / 8);
  return (
    0.25 +
    0.15 * Math.sin(0.37 * x) * Math.cos(0.29 * y) +
    hill(47.3, 44.8, 0.5) +
    hill(52.1, 51.6, 0.2) +
    hill(40.5, 55.2, 0.35)
  );
});

const made = (
  image: Float32Array,
  psf: PointSpread,
  iterations: number,
  smoothness = 0,
  side = SIDE
): Float32Array => {
  const out = new Float32Array(image.length);
  const field = wholeField({ x: 0, y: 0, width: side, height: image.length / side });
  richardsonLucy(image, out, field, spreadProducts(psf), { iterations, smoothness });
  return out;
};

describe('a point-spread', () => {
  it.each([GAUSS, OVAL, { ...OVAL, angle: -70, ratio: 0.5, fwhm: 6, beta: 1.8 }])(
    'sums to 1, and its rows and columns make it again: %j',
    (psf) => {
      const { samples, side } = spreadSamples(psf);
      expect(side).toBe(2 * spreadReach(psf) + 1);
      expect(samples.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12);
      const again = new Float64Array(side * side);
      for (const { row, column } of spreadProducts(psf))
        for (let i = 0; i < again.length; i++) again[i] += column[Math.floor(i / side)] * row[i % side];
      again.forEach((v, i) => expect(Math.abs(v - samples[i])).toBeLessThan(1e-5));
    }
  );

  it('is half as high at half of its width, along its axes', () => {
    // By hand: 3 px wide on the geometric mean, 0.5 round: 4.243 px along, 2.121 px across; turned by 90°, the long axis is upright.
    const { samples, side } = spreadSamples({ ...GAUSS, fwhm: 40 / Math.SQRT2, ratio: 0.5, angle: 90 });
    const middle = (side - 1) / 2;
    const at = (x: number, y: number): number =>
      samples[(middle + y) * side + middle + x] / samples[middle * side + middle];
    expect(at(0, 20)).toBeCloseTo(0.5, 3);
    expect(at(10, 0)).toBeCloseTo(0.5, 3);
    expect(at(20, 0)).toBeCloseTo(0.0625, 3);
  });
});

describe('Richardson and Lucy', () => {
  it.each(Object.entries(fixture.results))(
    'comes to what scikit-image comes to, away from the border: %s',
    (name, wanted) => {
      const found = made(picture, name === 'gauss' ? GAUSS : OVAL, fixture.iterations);
      const { from, side } = fixture;
      wanted.forEach((v, i) => {
        const at = (from + Math.floor(i / side)) * SIDE + from + (i % side);
        expect(Math.abs(found[at] - v)).toBeLessThan(1e-4);
      });
    }
  );

  it('keeps an even picture, and light below 0', () => {
    const even = made(new Float32Array(40 * 40).fill(0.2), OVAL, 15, 0, 40);
    even.forEach((v) => expect(v).toBeCloseTo(0.2, 5));
    const under = made(new Float32Array(40 * 40).fill(-0.02), GAUSS, 3, 0, 40);
    under.forEach((v) => expect(v).toBeCloseTo(-0.02, 6));
    expect(made(new Float32Array(1).fill(0.3), OVAL, 5, 0, 1)[0]).toBeCloseTo(0.3, 5);
  });

  it('is the same to the last bit however the picture is cut, as far as it reaches', () => {
    const random = randomStream(3);
    const [width, height] = [300, 40];
    const image = Float32Array.from({ length: width * height }, () => 0.1 + 0.5 * random());
    const how = { iterations: 4, smoothness: 0.01 };
    const run = (from: number, to: number): Float32Array => {
      const cut = new Float32Array((to - from) * height);
      for (let y = 0; y < height; y++)
        cut.set(image.subarray(y * width + from, y * width + to), y * (to - from));
      const out = new Float32Array(cut.length);
      richardsonLucy(
        cut,
        out,
        wholeField({ x: 0, y: 0, width: to - from, height }),
        spreadProducts(GAUSS),
        how
      );
      return out;
    };
    const reach = deconvolveReach(spreadReach(GAUSS), how);
    const whole = run(0, width);
    const part = run(0, 200);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < 200 - reach; x++) expect(part[y * 200 + x]).toBe(whole[y * width + x]);
  });

  it('asks before each round whether it is to go on, and ends where it is not', () => {
    const field = wholeField({ x: 0, y: 0, width: 20, height: 20 });
    const [image, out] = [new Float32Array(400).fill(0.2), new Float32Array(400)];
    let rounds = 0;
    const run = (goOn: () => void): void =>
      richardsonLucy(image, out, field, spreadProducts(GAUSS), { iterations: 9, smoothness: 0 }, goOn);
    run(() => void rounds++);
    expect(rounds).toBe(9);
    const stop = new Error('stop');
    expect(() =>
      run(() => {
        if (++rounds > 12) throw stop;
      })
    ).toThrow(stop);
    expect(rounds).toBe(13);
  });

  it('leaves missing samples out: what is beside a gap is what it is without one', () => {
    const [width, height] = [80, 40];
    const field = {
      ...wholeField({ x: 0, y: 0, width, height }),
      present: new Float32Array(width * height).fill(1)
    };
    const even = new Float32Array(width * height).fill(0.3);
    for (let y = 10; y < 30; y++)
      for (let x = 30; x < 50; x++) {
        field.present[y * width + x] = 0;
        even[y * width + x] = 0;
      }
    const out = new Float32Array(width * height);
    richardsonLucy(even, out, field, spreadProducts(OVAL), { iterations: 10, smoothness: 0 });
    out.forEach((v, i) => expect(v).toBeCloseTo(field.present[i] === 0 ? 0 : 0.3, 4));
  });

  it('holds noise down by the total variation, and edges less', () => {
    const random = randomStream(8);
    const [width, height] = [64, 64];
    const image = Float32Array.from(
      { length: width * height },
      (_, i) => (i % width < 32 ? 0.2 : 0.6) + 0.03 * (random() - 0.5)
    );
    const scatter = (of: Float32Array): number => {
      const values: number[] = [];
      for (let y = 8; y < 56; y++) for (let x = 6; x < 24; x++) values.push(of[y * width + x]);
      const mean = values.reduce((a, b) => a + b, 0) / values.length;
      return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length);
    };
    const step = (of: Float32Array): number => {
      let [low, high] = [0, 0];
      for (let y = 8; y < 56; y++) {
        low += of[y * width + 28] / 48;
        high += of[y * width + 35] / 48;
      }
      return high - low;
    };
    const [free, held] = [made(image, GAUSS, 30, 0, width), made(image, GAUSS, 30, 0.04, width)];
    expect(scatter(held)).toBeLessThan(0.5 * scatter(free));
    expect(step(held)).toBeGreaterThan(0.9 * step(free));
  });
});
