import { describe, expect, it } from 'vitest';
import { inRoom, takePlane } from '../kernels/arena';
import type { Raster } from '../raster/raster';
import { narrowed, quantize } from './quantize';

const [WIDTH, HEIGHT] = [512, 64];
const raster = (value: (x: number, y: number) => number): Raster => {
  const plane = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) =>
    value(i % WIDTH, Math.floor(i / WIDTH))
  );
  return {
    ...{ x: 0, y: 0, width: WIDTH, height: HEIGHT, encoding: 'coded', alpha: null },
    planes: [plane, plane, plane]
  };
};
const written = (of: Raster, dither: boolean): Uint8Array => {
  const samples = new Uint8Array(3 * WIDTH * HEIGHT);
  quantize(of, samples, WIDTH, { dither });
  return samples;
};
/** The mean of red in a column. */
const meanOf = (samples: Uint8Array, x: number): number =>
  Array.from({ length: HEIGHT }, (_, y) => samples[3 * (y * WIDTH + x)]).reduce((a, b) => a + b) / HEIGHT;

describe('rounding to 8 bits', () => {
  it('spreads what is lost, so that a slow slope keeps its slope and has no bands', () => {
    const slope = raster((x) => (100 + (2 * x) / WIDTH) / 255);
    const [plain, spread] = [written(slope, false), written(slope, true)];
    let [worst, banded] = [0, 0];
    // Over parts of a step the mean of many samples is the value itself.
    for (let from = 0; from < WIDTH; from += 32) {
      const about = (samples: Uint8Array): number => {
        let sum = 0;
        for (let x = from; x < from + 32; x++) sum += meanOf(samples, x) - (100 + (2 * x) / WIDTH);
        return Math.abs(sum / 32);
      };
      worst = Math.max(worst, about(spread));
      banded = Math.max(banded, about(plain));
    }
    expect(banded).toBeGreaterThan(0.4);
    expect(worst).toBeLessThan(0.05);
    // Never further than to the next step, and all channels alike: greys stay greys.
    for (let i = 0; i < spread.length; i++)
      expect(Math.abs(spread[i] - (100 + (2 * (Math.floor(i / 3) % WIDTH)) / WIDTH))).toBeLessThan(1);
    for (let i = 0; i < spread.length; i += 3)
      expect([spread[i + 1], spread[i + 2]]).toEqual([spread[i], spread[i]]);
  });

  it('leaves whole steps, the ends and missing samples as they are', () => {
    const whole = raster((x) => Math.fround((x % 256) / 255));
    expect(written(whole, true)).toEqual(written(whole, false));
    const beyond = raster((x) => [-0.2, 1.4, Number.NaN][x % 3]);
    expect(written(beyond, true)).toEqual(written(beyond, false));
  });

  it('is the same in one piece and in parts', () => {
    const all = raster((x, y) => 0.3 + (x + y) / 4000);
    const one = written(all, true);
    const parts = new Uint8Array(one.length);
    for (const [x, width] of [
      [0, 200],
      [200, 312]
    ]) {
      const cut = all.planes.map((plane) =>
        Float32Array.from(
          { length: width * HEIGHT },
          (_, i) => plane[Math.floor(i / width) * WIDTH + x + (i % width)]
        )
      );
      const part = { ...all, x, width, planes: cut as unknown as Raster['planes'] };
      quantize(part, parts, WIDTH, { dither: true });
    }
    expect(parts).toEqual(one);
  });

  it('comes from 16 bits as from floats', () => {
    const slope = raster((x) => 0.2 + x / 3000);
    const deep = new Uint16Array(3 * WIDTH * HEIGHT);
    quantize(slope, deep, WIDTH);
    const differs = (dither: boolean): number => {
      const [a, b] = [written(slope, dither), narrowed(deep, WIDTH, 3, dither)];
      expect(Math.max(...a.map((v, i) => Math.abs(v - b[i])))).toBeLessThanOrEqual(1);
      return a.reduce((count, v, i) => count + (v === b[i] ? 0 : 1), 0) / a.length;
    };
    expect(differs(false)).toBeLessThan(0.005);
    expect(differs(true)).toBeLessThan(0.01);
  });
});

describe('floats', () => {
  const odd = [-0.5, -0, 0, 0.25, 1, 1.5, Number.NaN, Number.POSITIVE_INFINITY, 0.1, 3e-40, -7];
  const wanted = {
    'as they are': { how: { keepRange: true, keepMissing: true }, of: (v: number) => v },
    'without what is missing': { how: { keepRange: true }, of: (v: number) => (v === v ? v : 0) },
    clamped: { how: {}, of: (v: number) => (v > 0 ? Math.min(1, v) : 0) },
    'clamped, what is missing kept': {
      how: { keepMissing: true },
      of: (v: number) => (v === v ? (v > 0 ? Math.min(1, v) : 0) : v)
    }
  };
  for (const [name, { how, of }] of Object.entries(wanted))
    it(`are written ${name}, in the kernels' memory or out of it, with alpha and at their place`, () => {
      const [width, height] = [7, 3];
      const n = width * height;
      const value = (c: number, i: number): number => Math.fround(odd[(5 * c + i) % odd.length]);
      const fill = (plane: Float32Array, c: number): Float32Array => {
        for (let i = 0; i < n; i++) plane[i] = value(c, i);
        return plane;
      };
      const pictures = [
        () => [0, 1, 2, 3].map((c) => fill(takePlane(n), c)),
        () => [0, 1, 2, 3].map((c) => fill(new Float32Array(n), c))
      ];
      for (const planesOf of pictures)
        inRoom(
          () => {
            const [r, g, b, alpha] = planesOf();
            const samples = new Float32Array(4 * 10 * 5).fill(9);
            const planes = [r, g, b] as unknown as Raster['planes'];
            quantize({ x: 2, y: 1, width, height, encoding: 'coded', planes, alpha }, samples, 10, how);
            const expected = new Float32Array(4 * 10 * 5).fill(9);
            for (let i = 0; i < 4 * n; i++) {
              const pixel = Math.floor(i / 4);
              const at = (Math.floor(pixel / width) + 1) * 10 + (pixel % width) + 2;
              expected[4 * at + (i % 4)] = of(value(i % 4, pixel));
            }
            expect(samples).toEqual(expected);
          },
          4 * (n + 16) * 4
        );
    });
});
