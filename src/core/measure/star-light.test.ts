import { describe, expect, it } from 'vitest';
import { randomStream, scattered } from '../random';
import { finished } from '../testing';
import { curveOf, sigmaAt, squaresByLayer } from './noise-curve';
import { lightForStars } from './star-light';

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

const lookedAt = (plane: Float32Array): ReturnType<typeof lightForStars> =>
  lightForStars(size, ({ x, y, width, height }) => {
    const part = new Float32Array(width * height);
    for (let j = 0; j < height; j++)
      part.set(plane.subarray((y + j) * WIDTH + x, (y + j) * WIDTH + x + width), j * width);
    return { width, height, planes: [part, part, part], present: null };
  });

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
    const light = finished(lookedAt(plane.map(stretch)));
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
    expect(finished(lookedAt(plane)).read(whole)).toEqual(plane);
    const even = new Float32Array(WIDTH * HEIGHT).fill(0.25);
    expect(finished(lookedAt(even)).read(whole)).toEqual(even);
  });

  it('knows lumps: noise that was smoothed is as strong in coarse layers as those say, white noise in none', () => {
    const random = randomStream(12);
    const white = new Float32Array(WIDTH * HEIGHT).map(() => 0.3 + 0.01 * scattered(random));
    const told = (plane: Float32Array): number[] => {
      const { layers } = finished(lookedAt(plane));
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

  it.each([0, 1, 2, 3])('σ of white noise is the same told in layer %i', (layer) => {
    const random = randomStream(20 + layer);
    const white = new Float32Array(1024 * 512).map(() => 0.3 + 0.01 * scattered(random));
    const squares = finished(squaresByLayer({ width: 1024, height: 512 }, () => white, 4));
    expect(sigmaAt(curveOf(squares[layer], layer), 0.3) / 0.01).toBeGreaterThan(0.92);
    expect(sigmaAt(curveOf(squares[layer], layer), 0.3) / 0.01).toBeLessThan(1.08);
  });
});
