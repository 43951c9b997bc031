import { describe, expect, it } from 'vitest';
import { randomStream, scattered } from '../random';
import type { Rect } from '../raster/raster';
import { finished } from '../testing';
import type { Size } from './noise';
import { bandsOfLayers, curveOf, sigmaAt, squaresOfBand } from './noise-curve';
import type { Seen } from './seen';
import { risesIn, starBands, starsAmong, type FindHow, type FoundStars } from './star-find';
import { lightOfBand, lightOfBands, starLight, type StarLight } from './star-light';

const [WIDTH, HEIGHT] = [480, 320];
const size = { width: WIDTH, height: HEIGHT };
const SIGMA = 0.0003;

/** A dark sky with a glow, white noise, and stars a hundredfold apart in height; all linear. */
function linear(seed: number): {
  plane: Float32Array;
  stars: readonly { x: number; y: number; height: number }[];
} {
  const random = randomStream(seed);
  const stars = Array.from({ length: 60 }, (_, k) => ({
    x: 20 + 44 * (k % 10) + 4 * random(),
    y: 24 + 50 * Math.floor(k / 10) + 4 * random(),
    height: 0.006 * 100 ** random()
  }));
  const plane = new Float32Array(WIDTH * HEIGHT);
  for (let i = 0; i < plane.length; i++) {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    const glow = 0.02 * Math.exp(-((x - 300) ** 2 + (y - 150) ** 2) / 9000);
    plane[i] = 0.004 + glow + SIGMA * scattered(random);
  }
  for (const { x, y, height } of stars)
    for (let j = Math.floor(y) - 8; j <= y + 8; j++)
      for (let i = Math.floor(x) - 8; i <= x + 8; i++)
        plane[j * WIDTH + i] += height * Math.exp(-((i - x) ** 2 + (j - y) ** 2) / 3.6);
  return { plane, stars };
}

function lookedAt(plane: Float32Array, tall = HEIGHT): StarLight {
  const region = ({ x, y, width, height }: Rect): Seen => {
    const part = new Float32Array(width * height);
    for (let j = 0; j < height; j++)
      part.set(plane.subarray((y + j) * WIDTH + x, (y + j) * WIDTH + x + width), j * width);
    return { width, height, planes: [part, part, part], present: null };
  };
  const bands = bandsOfLayers({ width: WIDTH, height: tall });
  return starLight(lightOfBands(bands.map((band) => lightOfBand(band, region))), region);
}

const foundIn = (at: Size, light: StarLight, how: FindHow, most?: number): FoundStars =>
  starsAmong(finished(risesIn(starBands(at), at, light, how)), most);

const whole = { x: 0, y: 0, ...size };
/** Written down from the papers: Schlick (1994) with a middle, and Lupton et al. (2004). */
const midtone =
  (m: number) =>
  (v: number): number =>
    ((m - 1) * v) / ((2 * m - 1) * v - m);
const asinh =
  (s: number) =>
  (v: number): number =>
    Math.asinh(s * v) / Math.asinh(s);

describe('the light by which stars are told', () => {
  it.each([
    ['midtone, 0.02', midtone(0.02), 5],
    ['midtone, 0.005', midtone(0.005), 6],
    ['asinh, 150', asinh(150), 7],
    ['asinh, 800', asinh(800), 8]
  ])('has a stretch undone: %s', (_, stretch, seed) => {
    const { plane, stars } = linear(seed);
    const light = lookedAt(plane.map(stretch));
    const seen = light.read(whole);
    const valueAt = (of: Float32Array, x: number, y: number): number =>
      of[Math.round(y) * WIDTH + Math.round(x)];
    // How much higher bright stars stand than faint ones, as they did before: the sky is there and may lie elsewhere.
    const bright = [...stars].sort((a, b) => b.height - a.height).filter(({ height }) => height < 0.5);
    const high = bright.slice(0, 8);
    const low = bright.slice(22, 30);
    const mean = (some: typeof stars, of: Float32Array, sky: number): number =>
      some.reduce((sum, { x, y }) => sum + Math.log(valueAt(of, x, y) - sky), 0) / some.length;
    const apart = (of: Float32Array): number => {
      const sky = Float32Array.from(of).sort()[of.length >> 1];
      return mean(high, of, sky) - mean(low, of, sky);
    };
    expect(apart(plane)).toBeGreaterThan(1);
    expect(apart(plane.map(stretch))).toBeLessThan(0.75 * apart(plane));
    expect(apart(seen) / apart(plane)).toBeGreaterThan(0.9);
    expect(apart(seen) / apart(plane)).toBeLessThan(1.1);
    // Its noise is known as well: what a difference of neighbours in an empty corner scatters by.
    let [squares, count] = [0, 0];
    for (let y = 0; y < 14; y++)
      for (let x = 0; x < WIDTH - 1; x++, count++)
        squares += (seen[y * WIDTH + x + 1] - seen[y * WIDTH + x]) ** 2;
    expect(sigmaAt(light.noise, seen[3]) / Math.sqrt(squares / count / 2)).toBeCloseTo(1, 0.8);
  });

  it('is what it was where nothing is stretched, of a linear picture and of an even one', () => {
    const { plane } = linear(9);
    expect(lookedAt(plane).read(whole)).toEqual(plane);
    const even = new Float32Array(WIDTH * HEIGHT).fill(0.25);
    expect(lookedAt(even).read(whole)).toEqual(even);
  });

  it('knows lumps: noise that was smoothed is as strong in coarse layers as those say, white noise in none', () => {
    const random = randomStream(12);
    const white = new Float32Array(WIDTH * HEIGHT).map(() => 0.3 + 0.01 * scattered(random));
    const told = (plane: Float32Array): number[] => {
      const { layers } = lookedAt(plane);
      return layers.map((curve) => sigmaAt(curve, 0.3) / sigmaAt(layers[0], 0.3));
    };
    for (const by of told(white)) expect(by).toBeCloseTo(1, 2);
    // The mean of four neighbours: a quarter of the variance, next to none of it in the finest layer's highest frequencies.
    const smooth = white.map(
      (v, i) => (v + (white[i + 1] ?? v) + (white[i + WIDTH] ?? v) + (white[i + WIDTH + 1] ?? v)) / 4
    );
    const lumps = told(smooth);
    expect(lumps[1]).toBeGreaterThan(1.3);
    expect(lumps[2]).toBeGreaterThan(1.3);
  });

  it.each([1, 3])(
    'finds stars where coarse layers say nothing: in a low picture, and where columns are missing (%i)',
    (seed) => {
      const { plane, stars } = linear(seed);
      const low = plane.slice(0, WIDTH * 72);
      const barred = plane.map((v, i) => ((i % WIDTH) % 40 === 20 ? Number.NaN : v));
      for (const [seen, tall] of [
        [low, 72],
        [barred, HEIGHT]
      ] as const) {
        const light = lookedAt(seen, tall);
        for (const curve of light.layers) {
          expect(sigmaAt(curve, 0.004) / SIGMA).toBeGreaterThan(0.8);
          expect(sigmaAt(curve, 0.004) / SIGMA).toBeLessThan(1.3);
        }
        const { stars: found } = foundIn({ width: WIDTH, height: tall }, light, {
          threshold: 6,
          largest: 20
        });
        const inside = stars.filter(
          ({ x, y }) => y < tall - 12 && (tall < HEIGHT || Math.abs((x % 40) - 20) > 6)
        );
        const near = (a: { x: number; y: number }, b: { x: number; y: number }): boolean =>
          Math.hypot(a.x - b.x - 0.5, a.y - b.y - 0.5) < 1.5;
        expect(inside.filter((star) => !found.some((one) => near(one, star)))).toEqual([]);
        expect(found.length).toBeLessThanOrEqual(stars.length);
      }
    }
  );

  it('knows noise by the value in layers that say nothing: a low picture whose bright half has four times as much', () => {
    const random = randomStream(31);
    const low = new Float32Array(WIDTH * 72).map((_, i) => {
      const bright = i % WIDTH >= WIDTH / 2;
      return (bright ? 0.03 : 0.004) + (bright ? 4 : 1) * SIGMA * scattered(random);
    });
    for (const curve of lookedAt(low, 72).layers) {
      expect(Math.abs(sigmaAt(curve, 0.004) / SIGMA - 1)).toBeLessThan(0.2);
      expect(Math.abs(sigmaAt(curve, 0.03) / (4 * SIGMA) - 1)).toBeLessThan(0.2);
    }
  });

  it.each([
    ['linear', (v: number) => v],
    ['asinh, 30', asinh(30)],
    ['asinh, 3000', asinh(3000)]
  ])(
    'finds stars that stand so close that the light of some reaches into every coarse square: %s',
    (_, stretch) => {
      const random = randomStream(41);
      const plane = new Float32Array(WIDTH * HEIGHT).map(() => 0.01 + SIGMA * scattered(random));
      const stars = Array.from({ length: 80 }, (_v, k) => ({
        x: 30 + 46 * (k % 10) + 12 * random(),
        y: 22 + 38 * Math.floor(k / 10) + 12 * random(),
        height: 0.006 / (0.02 + random())
      }));
      for (const { x, y, height } of stars)
        for (let j = Math.floor(y) - 8; j <= y + 8; j++)
          for (let i = Math.floor(x) - 8; i <= x + 8; i++)
            if (i < WIDTH) plane[j * WIDTH + i] += height * Math.exp(-((i - x) ** 2 + (j - y) ** 2) / 3.2);
      const light = lookedAt(plane.map(stretch));
      const { stars: found } = foundIn(size, light, { threshold: 6, largest: 20 });
      const missed = stars.filter(
        ({ x, y }) => !found.some((one) => Math.hypot(one.x - x - 0.5, one.y - y - 0.5) < 2)
      );
      expect(missed.length).toBeLessThanOrEqual(4);
      expect(found.length).toBeLessThanOrEqual(stars.length);
    }
  );

  it.each([0, 0.006])(
    'a star reaches to the end of the dark ring that sharpening left about it (%d deep)',
    (deep) => {
      const random = randomStream(51);
      const plane = new Float32Array(WIDTH * HEIGHT).map(() => 0.02 + SIGMA * scattered(random));
      for (let y = 40; y < HEIGHT - 30; y += 60)
        for (let x = 40; x < WIDTH - 30; x += 60)
          for (let j = -16; j <= 16; j++)
            for (let i = -16; i <= 16; i++) {
              const r = Math.hypot(i, j);
              // The ring is as deep from 5 to 9 px, and gone at 12.
              const ring = deep * Math.min(1, Math.max(0, (12 - r) / 3));
              plane[(y + j) * WIDTH + x + i] += 0.4 * Math.exp(-(r * r) / 3.2) - ring;
            }
      const light = lookedAt(plane);
      const { stars } = foundIn(size, light, { threshold: 6, largest: 30 });
      expect(stars).toHaveLength(35);
      for (const { radius } of stars) {
        expect(radius).toBeGreaterThanOrEqual(deep > 0 ? 10 : 4);
        expect(radius).toBeLessThanOrEqual(deep > 0 ? 13 : 6);
      }
    }
  );

  it.each([25, 25.5])(
    'knows the noise of few steps, less than one of 8 bits, under stars (about %d)',
    (about) => {
      const random = randomStream(61);
      const sigma = 0.6 / 255;
      const plane = new Float32Array(WIDTH * HEIGHT).map(() => about / 255 + sigma * scattered(random));
      for (let y = 24; y < HEIGHT - 20; y += 48)
        for (let x = 24; x < WIDTH - 20; x += 48)
          for (let j = -8; j <= 8; j++)
            for (let i = -8; i <= 8; i++)
              plane[(y + j) * WIDTH + x + i] += 0.3 * Math.exp(-(i * i + j * j) / 4);
      const coded = plane.map((v) => Math.round(255 * v) / 255);
      const light = lookedAt(coded);
      // Rounding adds a twelfth of a step squared; of the stars' light as much is left in coarse layers as without steps.
      const more = Math.hypot(sigma, 1 / 255 / Math.sqrt(12)) / sigma;
      for (const [layer, curve] of lookedAt(plane).layers.entries()) {
        const told = sigmaAt(light.layers[layer], about / 255) / sigmaAt(curve, about / 255);
        expect(told).toBeGreaterThan(0.9);
        expect(told).toBeLessThan(1.15 * more);
      }
      expect(foundIn(size, light, { threshold: 5, largest: 20 }).stars).toHaveLength(60);
    }
  );

  it('takes so many stars, the highest, and tells how many more there are', () => {
    const { plane } = linear(4);
    const light = lookedAt(plane);
    const how = { threshold: 6, largest: 20 };
    const all = foundIn(size, light, how);
    expect(all.more).toBe(0);
    const some = foundIn(size, light, how, 10);
    expect(some).toEqual({ stars: all.stars.slice(0, 10), more: all.stars.length - 10 });
    expect(all.stars.map(({ height }) => height)).toEqual(
      all.stars.map(({ height }) => height).sort((a, b) => b - a)
    );
  });

  it.each([0, 1, 2, 3])('σ of white noise is the same told in layer %i', (layer) => {
    const random = randomStream(20 + layer);
    const white = new Float32Array(1024 * 512).map(() => 0.3 + 0.01 * scattered(random));
    const squares = bandsOfLayers({ width: 1024, height: 512 }).flatMap(
      (band) => squaresOfBand(white, band, 4)[layer]
    );
    expect(sigmaAt(curveOf(squares, layer), 0.3) / 0.01).toBeGreaterThan(0.92);
    expect(sigmaAt(curveOf(squares, layer), 0.3) / 0.01).toBeLessThan(1.08);
  });
});
