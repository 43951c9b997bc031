import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { demingLine } from './deming';
import { clippedSigma, finestLayer, noiseOf, noiseOfWhole } from './noise';
import {
  askedOf,
  countFloats,
  countWholes,
  lowerHalves,
  ordered,
  orderedPresent,
  type Ordered,
  type Stride
} from './order';
import { medianAndMad, skyOf, skyOfOrdered } from './sky';
import { fitPolynomial, fitSpline, surfaceAt, type Sample } from './surface';

const random = randomStream(77);
const scatter = (): number => {
  let sum = -6;
  for (let k = 0; k < 12; k++) sum += random();
  return sum;
};

describe('robust estimates', () => {
  it.each([1, 2, 3, 8, 101, 1000])('the median and MAD of %i values are those of an exact sort', (n) => {
    const values = Float32Array.from({ length: n }, () => Math.round(40 * scatter()) / 8);
    const middle = (sorted: number[]): number =>
      (sorted[Math.floor((n - 1) / 2)] + sorted[Math.ceil((n - 1) / 2)]) / 2;
    const sorted = Array.from(values).sort((a, b) => a - b);
    const median = middle(sorted);
    const mad = middle(sorted.map((v) => Math.abs(v - median)).sort((a, b) => a - b));
    expect(medianAndMad(orderedPresent(values))).toEqual({ median, mad });
  });

  it('samples are sorted as the language sorts them, whatever floats there are, and counted where they are whole', () => {
    const odd = [-0, 0, Infinity, -Infinity, 1e-45, -1e-45, 3.4e38, -3.4e38, Number.NaN, 1, -1];
    const values = Float32Array.from({ length: 20_000 }, (_, i) =>
      i % 50 === 0 ? odd[(i / 50) % odd.length] : scatter() * 10 ** Math.round(8 * scatter())
    );
    const all = (samples: Ordered): number[] =>
      Array.from({ length: samples.length }, (_, rank) => samples.at(rank) + 0);
    const sorted = (list: Float32Array | Uint16Array): number[] =>
      Array.from(list.filter((v) => !Number.isNaN(v)).sort(), (v) => v + 0);
    expect(all(orderedPresent(values))).toEqual(sorted(values));
    expect(all(orderedPresent(values, 100))).toEqual(sorted(values.slice(0, 100)));
    // In parts, and every third from the second on.
    const partsOf = (list: Float32Array, strides: readonly Stride[], inOne = true): Ordered => {
      const parts = strides.map((stride) => countFloats(list, stride));
      const halves = inOne ? [...parts[0].upper.keys()] : [];
      const known = strides.map((stride, i) => lowerHalves(list, stride, parts[i], halves));
      return ordered(parts, (half) =>
        strides.map(
          (stride, i) => known[i].get(half) ?? lowerHalves(list, stride, parts[i], [half]).get(half)!
        )
      );
    };
    const cut = partsOf(
      values,
      [0, 3000, 3001, 6600].map((from, i, cuts) => ({ first: 1, step: 3, from, to: cuts[i + 1] ?? 6666 }))
    );
    const thirds = sorted(values.slice(0, 3 * 6666).filter((_, i) => i % 3 === 1));
    expect(all(cut)).toEqual(thirds);
    expect(cut.length).toBe(thirds.length);
    // So many of one upper half that they are counted; of the parts one counts and one does not.
    const narrow = Float32Array.from({ length: 300_000 }, (_, i) => 1 + ((i * 7919) % 50_000) * 2 ** -23);
    const inRow = sorted(narrow);
    const strides = [
      { first: 0, step: 1, from: 0, to: 250_000 },
      { first: 0, step: 1, from: 250_000, to: 300_000 }
    ];
    const found = partsOf(narrow, strides, false);
    for (const rank of [0, 1, 77, 149_999, 150_000, 299_999]) expect(found.at(rank)).toBe(inRow[rank]);
    for (const v of [0, 1, 1.001, 1 + 2 ** -24, narrow[4711], 2, Infinity]) {
      expect(found.below(v)).toBe(inRow.filter((one) => one < v).length);
      expect(found.below(v, true)).toBe(inRow.filter((one) => one <= v).length);
    }
    for (const v of [-1, 0, -0, 0.5, 1e-45, Infinity, -Infinity, -3e38]) {
      expect(cut.below(v)).toBe(thirds.filter((one) => one < v).length);
      expect(cut.below(v, true)).toBe(thirds.filter((one) => one <= v).length);
    }
    const whole = Uint16Array.from({ length: 9000 }, () => Math.floor(65536 * random()));
    const third = sorted(whole.filter((_, i) => i % 3 === 1));
    const counted = ordered([countWholes(whole, { first: 1, step: 3, from: 0, to: 3000 })], () => []);
    expect(all(counted)).toEqual(third);
    expect(counted.sum).toBe(third.reduce((sum, v) => sum + v, 0));
    expect(counted.below(30_000.5)).toBe(third.filter((v) => v < 30_000.5).length);
    expect(counted.below(third[40], true)).toBe(third.filter((v) => v <= third[40]).length);
  });

  it('what is asked of samples is told from their counts, below and over zero, at the ends and where all are one', () => {
    const stride = { first: 0, step: 1, from: 0, to: 200_000 };
    const kinds = [
      () => 0.02 + 0.002 * scatter(),
      () => 0.002 * scatter(),
      () => -3 + scatter(),
      () => 0.25,
      () => (random() < 0.01 ? Number.NaN : 0.1 + 0.001 * scatter() ** 3)
    ];
    for (const kind of kinds) {
      const list = Float32Array.from({ length: stride.to }, kind);
      const part = countFloats(list, stride);
      const ask = (samples: Ordered): unknown => [
        medianAndMad(samples),
        skyOfOrdered(samples),
        samples.at(0),
        samples.at(samples.length - 1)
      ];
      const lower = lowerHalves(list, stride, part, askedOf([part], ask));
      let unasked = 0;
      const found = ask(
        ordered([part], (half) => {
          const known = lower.get(half);
          if (!known) unasked++;
          return [known ?? lowerHalves(list, stride, part, [half]).get(half)!];
        })
      );
      // By the language's own sort.
      const inRow = list.filter((v) => v === v).sort();
      const plain = ask({
        length: inRow.length,
        sum: 0,
        at: (rank) => inRow[rank],
        about: (rank) => [inRow[rank], inRow[rank]],
        below: (v, andAt = false) => inRow.filter((one) => one < v || (andAt && one === v)).length
      });
      expect(found).toEqual(plain);
      expect(unasked).toBeLessThan(2);
      expect(lower.size).toBeLessThan(40);
    }
  });

  it.skipIf(!existsSync('/usr/lib/python3/dist-packages/astropy'))(
    'the sky is what numpy makes of the same three rounds',
    () => {
      const values = Float32Array.from({ length: 4001 }, (_, i) =>
        Math.fround(5 + scatter() + (i % 9 === 0 ? 30 : 0))
      );
      const code = `
import sys, numpy as np
v = np.frombuffer(sys.stdin.buffer.read(), np.float32).astype(float)
for _ in range(3):
    m = np.median(v)
    v = v[np.abs(v - m) <= 3 * 1.4826 * np.median(np.abs(v - m))]
m = np.median(v)
print(repr(float(m)), repr(float(1.4826 * np.median(np.abs(v - m)))))`;
      const out = execFileSync('/usr/bin/python3', ['-c', code], {
        input: Buffer.from(values.buffer),
        encoding: 'utf8'
      });
      const [level, sigma] = out.trim().split(' ').map(Number);
      const found = skyOf(values);
      expect(found.level).toBeCloseTo(level, 6);
      expect(found.sigma).toBeCloseTo(sigma, 6);
    }
  );

  it('there is no line to a plane that falls where this one rises, nor to one that stands still', () => {
    const x = Float32Array.from({ length: 4000 }, () => 0.4 + 0.05 * scatter());
    const down = x.map((v) => 0.8 - v + 0.01 * scatter());
    expect(demingLine(x, down, x.length, 1)).toBeNull();
    expect(demingLine(x, new Float32Array(x.length).fill(0.5), x.length, 1)).toBeNull();
    expect(demingLine(x, new Float32Array(x.length).fill(Number.NaN), x.length, 1)).toBeNull();
  });

  it('the noise of a large plane is told by bands of it, of a small one by all', () => {
    const [width, height] = [1500, 2400];
    // Twice as noisy in its lower half: the bands see both.
    const plane = Float32Array.from(
      { length: width * height },
      (_, i) => (i < (width * height) / 2 ? 1 : 2) * (random() + random() + random() + random() - 2)
    );
    const all = noiseOf(plane, width, height);
    const reading =
      (from: Float32Array) =>
      (...part: [number, number]): Float32Array =>
        from.subarray(...part);
    expect(Math.abs(noiseOfWhole(reading(plane), width, height) / all - 1)).toBeLessThan(0.01);
    const small = plane.subarray(0, 300 * 200);
    expect(noiseOfWhole(reading(small), 300, 200)).toBe(noiseOf(small, 300, 200));
  });

  it('the noise of white noise on a slope is its σ, and its response is that of the spline', () => {
    const [width, height] = [500, 300];
    const plane = Float32Array.from({ length: width * height }, (_, i) => 3 * scatter() + 0.1 * (i % width));
    expect(Math.abs(noiseOf(plane, width, height) / 3 - 1)).toBeLessThan(0.03);
    // By hand: √((1 − 2·(6/16)² + ((1 + 16 + 36 + 16 + 1)/256)²)) of unit noise.
    const one = new Float32Array(81);
    one[40] = 1;
    const layer = finestLayer(one, 9, 9);
    const power = Math.sqrt(layer.reduce((sum, v) => sum + (v === v ? v * v : 0), 0));
    expect(power).toBeCloseTo(0.8908, 4);
    expect(clippedSigma(Float32Array.of(1, -1, 1, -1))).toBe(1);
  });

  it('a line with noise on both sides is found where least squares of y would be too flat', () => {
    const n = 20_000;
    const light = Float32Array.from({ length: n }, () => 0.1 + 0.05 * random());
    const x = light.map((v) => v + 0.02 * scatter());
    const y = light.map((v) => 0.7 * v + 0.05 + 0.01 * scatter());
    const { gain, offset } = demingLine(x, y, n, 0.25)!;
    expect(Math.abs(gain / 0.7 - 1)).toBeLessThan(0.08);
    expect(offset + gain * 0.125).toBeCloseTo(0.7 * 0.125 + 0.05, 3);
    expect(demingLine(new Float32Array(3).fill(0.5), new Float32Array(3).fill(0.5), 3, 1)).toBeNull();
  });
});

describe('surfaces', () => {
  const places = (value: (u: number, v: number) => number): Sample[] =>
    Array.from({ length: 900 }, (_, i) => {
      const [u, v] = [-0.98 + (1.96 * (i % 30)) / 29, -0.65 + (1.3 * Math.floor(i / 30)) / 29];
      return { u, v, value: value(u, v) };
    });

  it('a polynomial is found again, and held at what its samples can tell', () => {
    const wanted = (u: number, v: number): number => 3 - u + 2 * v + 0.5 * u * v - 1.5 * v * v;
    const surface = fitPolynomial(places(wanted), 3);
    for (const [u, v] of [
      [0, 0],
      [0.9, -0.6],
      [-0.7, 0.3]
    ])
      expect(surfaceAt(surface, u, v)).toBeCloseTo(wanted(u, v), 5);
    expect(surfaceAt(fitPolynomial([{ u: 0, v: 0, value: 7 }], 4), 0.5, 0.5)).toBeCloseTo(7, 6);
  });

  it.each([
    [0.5, 'solved at once'],
    [0.08, 'by conjugate gradients']
  ])('a spline of spacing %d follows a wave, and a polynomial of degree 2 exactly; %s', (spacing) => {
    const how = { halfWidth: 1, halfHeight: 2 / 3, spacing, penalty: 1e-3 };
    const bent = (u: number, v: number): number => 1 + 2 * u - v + 3 * u * u - u * v + 0.5 * v * v;
    const wave = (u: number, v: number): number => bent(u, v) + 0.2 * Math.sin(3 * u + 2 * v);
    for (const [wanted, digits] of [
      [bent, 3],
      [wave, 2]
    ] as const) {
      const surface = fitSpline(places(wanted), how);
      for (const [u, v] of [
        [0, 0],
        [0.8, -0.5],
        [-0.6, 0.45]
      ])
        expect(surfaceAt(surface, u, v)).toBeCloseTo(wanted(u, v), digits);
    }
  });
});
