import { describe, expect, it } from 'vitest';
import { largestDifference, noiseFrame, render, softFrame, stepOf } from '../testing';
import { gaussianBlur, gaussianReach } from '../spatial/gaussian';
import { wholeField } from '../spatial/field';
import { randomStream } from '../random';

const WIDTH = 90;
const HEIGHT = 64;
const noise = noiseFrame(WIDTH, HEIGHT, false, 'f32');
const [red] = render(noise, []);
const on = { on: { model: 'rgb', channels: ['r'] } };
const redOf = (op: string, params: object): Float32Array => render(noise, [stepOf(op, params, on)])[0];
const clamp = (v: number, size: number): number => Math.min(size - 1, Math.max(0, v));

/** A Gaussian in doubles, six sigmas wide, sample by sample in both directions. */
function plainGaussian(
  plane: ArrayLike<number>,
  sigma: number,
  width = WIDTH,
  height = HEIGHT
): Float64Array {
  const h = Math.ceil(6 * sigma);
  const weights = Array.from({ length: 2 * h + 1 }, (_, k) => Math.exp(-0.5 * ((k - h) / sigma) ** 2));
  const sum = weights.reduce((a, b) => a + b, 0);
  const pass = (from: ArrayLike<number>, dx: number, dy: number): Float64Array =>
    Float64Array.from({ length: width * height }, (_, i) => {
      const [x, y] = [i % width, Math.floor(i / width)];
      return weights.reduce(
        (s, w, k) =>
          s + (w / sum) * from[clamp(y + dy * (k - h), height) * width + clamp(x + dx * (k - h), width)],
        0
      );
    });
  return pass(pass(plane, 1, 0), 0, 1);
}

/** The guided filter of a plane by itself with square windows cut at the edges, from its paper, in doubles. */
function plainGuided(plane: ArrayLike<number>, r: number, epsilon: number): Float64Array {
  const box = (from: (i: number) => number): Float64Array =>
    Float64Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
      const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
      let [sum, count] = [0, 0];
      for (let v = Math.max(0, y - r); v <= Math.min(HEIGHT - 1, y + r); v++) {
        for (let u = Math.max(0, x - r); u <= Math.min(WIDTH - 1, x + r); u++, count++)
          sum += from(v * WIDTH + u);
      }
      return sum / count;
    });
  const mean = box((i) => plane[i]);
  const square = box((i) => plane[i] ** 2);
  const a = mean.map((m, i) => (square[i] - m * m) / (square[i] - m * m + epsilon));
  const b = mean.map((m, i) => (1 - a[i]) * m);
  const [ma, mb] = [box((i) => a[i]), box((i) => b[i])];
  return ma.map((v, i) => v * plane[i] + mb[i]);
}

describe('blur', () => {
  it.each([0.4, 1.5, 5])('is the Gaussian of sigma %d, within 1e-4', (radius) => {
    expect(largestDifference(redOf('blur', { radius }), plainGaussian(red, radius))).toBeLessThan(1e-4);
  });

  it.each([8, 15, 33, 100])(
    'is the Gaussian of sigma %d, split over a grid, within 1e-4, over an edge too',
    (sigma) => {
      const [width, height] = [400, 3];
      const random = randomStream(9);
      const plane = Float32Array.from(
        { length: width * height },
        (_, i) => (i % width < 170 ? 0.1 : 0.95) + 0.05 * (random() - 0.5)
      );
      const out = new Float32Array(plane.length);
      gaussianBlur(plane, out, wholeField({ x: 0, y: 0, width, height }), sigma);
      expect(largestDifference(out, plainGaussian(plane, sigma, width, height))).toBeLessThan(1e-4);
      expect(gaussianReach(sigma)).toBeLessThan(7 * sigma + 8);
    }
  );
});

describe('sharpen', () => {
  it('adds what the Gaussian removes, and leaves faint differences alone, within 1e-4', () => {
    const soft = plainGaussian(red, 1.2);
    const found = redOf('sharpen', { radius: 1.2, amount: 80, threshold: 0.1 });
    found.forEach((v, i) => {
      const d = red[i] - soft[i];
      if (Math.abs(Math.abs(d) - 0.1) < 1e-4) return;
      expect(Math.abs(v - (red[i] + (Math.abs(d) > 0.1 ? 0.8 * d : 0)))).toBeLessThan(1e-4);
    });
  });
});

describe('smooth', () => {
  it('is the guided filter of its paper, within 1e-4', () => {
    const found = redOf('smooth', { radius: 6, tolerance: 0.2 });
    expect(largestDifference(found, plainGuided(red, 6, 0.04))).toBeLessThan(1e-4);
  });

  it('takes one tolerance for each channel', () => {
    const [r, , b] = render(noise, [stepOf('smooth', { radius: 4, tolerance: { r: 0.3, g: 0.1, b: 0 } })]);
    expect(largestDifference(r, plainGuided(red, 4, 0.09))).toBeLessThan(1e-4);
    expect(largestDifference(b, render(noise, [])[2])).toBeLessThan(1e-5);
  });

  it('evens out what is far below the tolerance and keeps what is far above, on wide windows too', () => {
    const frame = softFrame(300, 200);
    for (const radius of [7, 40]) {
      const [before] = render(frame, []);
      const [after] = render(frame, [stepOf('smooth', { radius, tolerance: 0.02 })]);
      expect(largestDifference(before, after)).toBeLessThan(0.06);
    }
  });
});

describe('local contrast', () => {
  it('adds the difference to the guided base, within 1e-4', () => {
    const base = plainGuided(red, 7, 0.08 ** 2);
    const found = redOf('local', { radius: 7, amount: 60 });
    expect(
      largestDifference(
        found,
        base.map((v, i) => red[i] + 0.6 * (red[i] - v))
      )
    ).toBeLessThan(1e-4);
  });

  it('grows no halo beside a strong edge', () => {
    const [width, height] = [240, 40];
    const rgb = Array.from({ length: width * height * 3 }, (_, i) =>
      Math.floor(i / 3) % width < 120 ? 0.15 : 0.85
    );
    const samples = { ...softFrame(width, height) };
    const level = { width, height, samples: Float32Array.from(rgb) as never };
    const frame = { ...samples, sampleType: 'f32' as const, levels: [level] };
    const [after] = render(frame, [stepOf('local', { radius: 24, amount: 100 })]);
    // An unsharp mask of the same radius would overshoot by 0.35.
    expect(Math.max(...after) - 0.85).toBeLessThan(0.05);
  });
});

describe('detail', () => {
  /** Burt & Adelson's pyramid by its definition: sums over the 5×5 binomial, in doubles. */
  const w = [0.0625, 0.25, 0.375, 0.25, 0.0625];
  interface Level {
    width: number;
    height: number;
    v: Float64Array;
  }
  const reduced = ({ width, height, v }: Level): Level => {
    const [cw, ch] = [Math.ceil(width / 2), Math.ceil(height / 2)];
    const out = Float64Array.from({ length: cw * ch }, (_, i) => {
      let sum = 0;
      for (let m = -2; m <= 2; m++) {
        for (let n = -2; n <= 2; n++) {
          const at = clamp(2 * Math.floor(i / cw) + m, height) * width + clamp(2 * (i % cw) + n, width);
          sum += w[m + 2] * w[n + 2] * v[at];
        }
      }
      return sum;
    });
    return { width: cw, height: ch, v: out };
  };
  const expanded = (coarse: Level, width: number, height: number): Float64Array =>
    Float64Array.from({ length: width * height }, (_, i) => {
      let sum = 0;
      for (let m = -2; m <= 2; m++) {
        for (let n = -2; n <= 2; n++) {
          const [y, x] = [(Math.floor(i / width) - m) / 2, ((i % width) - n) / 2];
          if (!Number.isInteger(x) || !Number.isInteger(y)) continue;
          sum +=
            4 *
            w[m + 2] *
            w[n + 2] *
            coarse.v[clamp(y, coarse.height) * coarse.width + clamp(x, coarse.width)];
        }
      }
      return sum;
    });

  it('raises each band of the pyramid by its own strength, within 1e-4', () => {
    const [amount, floor] = [0.7, 0.02];
    const levels: Level[] = [{ width: WIDTH, height: HEIGHT, v: Float64Array.from(red) }];
    for (let j = 0; j < 3; j++) levels.push(reduced(levels[j]));
    let result = levels[3].v;
    for (let j = 2; j >= 0; j--) {
      const { width, height, v } = levels[j];
      const under = expanded(levels[j + 1], width, height);
      const band = v.map((x, i) => x - under[i]);
      const strength = expanded(reduced({ width, height, v: band.map((x) => x * x) }), width, height);
      const base = expanded({ ...levels[j + 1], v: result }, width, height);
      result = band.map(
        (x, i) => base[i] + x * Math.max(1, (0.05 + floor) / (Math.sqrt(strength[i]) + floor)) ** amount
      );
    }
    const faint = render(noise, [])[0].map((v) => 0.4 + 0.05 * v);
    expect(faint.length).toBe(red.length);
    expect(largestDifference(redOf('detail', { amount: 70, radius: 8, floor }), result)).toBeLessThan(1e-4);
  });

  it('raises faint detail more than strong, each channel by its own amount', () => {
    const frame = softFrame(160, 120);
    const [r0, , b0] = render(frame, []);
    const [r, , b] = render(frame, [stepOf('detail', { amount: { r: 100, g: 0, b: 0 } })]);
    expect(largestDifference(b, b0)).toBeLessThan(1e-5);
    const spread = (p: Float32Array): number =>
      p.reduce((s, v, i) => s + (i ? Math.abs(v - p[i - 1]) : 0), 0);
    expect(spread(r)).toBeGreaterThan(1.5 * spread(r0));
  });
});
