import { describe, expect, it } from 'vitest';
import { randomStream, scattered } from '../random';
import { greyFrame, planOf, render, stepOf } from '../testing';
import { evaluate } from '../path/evaluate';
import { scales } from './scales';

const random = randomStream(23);

const rms = (values: ArrayLike<number>): number =>
  Math.sqrt(Array.from(values).reduce((sum, v) => sum + v * v, 0) / values.length);

describe('scales', () => {
  it('as they are give the input back to the bit, in whatever number', () => {
    const frame = greyFrame(50, 40, () => random());
    const [plain] = render(frame, []);
    for (const count of [1, 6, 7]) {
      const layers = Array.from({ length: count }, () => ({ gain: 1, threshold: 0 }));
      expect(render(frame, [stepOf('scales', { layers })])[0]).toEqual(plain);
    }
  });

  it('multiply what is of one size: a wave of 8 px most in the layer of 2 px, a slope in none', () => {
    const wave = (x: number): number => 0.5 + 0.1 * Math.cos((2 * Math.PI * x) / 8);
    const frame = greyFrame(128, 64, wave);
    const amplitude = (layers: object[]): number => {
      const [plane] = render(frame, [stepOf('scales', { layers })]);
      return (plane[32 * 128 + 64] - plane[32 * 128 + 60]) / 2;
    };
    const one = { gain: 1 };
    // By hand: the spline of step s passes cos²(πs/8)²  of a wave of 8 px: (6 + 8·cos(2πs/8) + 2·cos(4πs/8))/16.
    const passes = (s: number): number =>
      (6 + 8 * Math.cos((2 * Math.PI * s) / 8) + 2 * Math.cos((4 * Math.PI * s) / 8)) / 16;
    const parts = [1 - passes(1), passes(1) * (1 - passes(2)), passes(1) * passes(2) * (1 - passes(4))];
    expect(amplitude([{ gain: 0 }, one, one])).toBeCloseTo(0.1 * (1 - parts[0]), 5);
    expect(amplitude([one, { gain: 3 }, one])).toBeCloseTo(0.1 * (1 + 2 * parts[1]), 5);
    expect(amplitude([one, one, { gain: 0 }])).toBeCloseTo(0.1 * (1 - parts[2]), 5);
    const slope = greyFrame(200, 60, (x) => 0.1 + 0.002 * x);
    const [before] = render(slope, []);
    const [after] = render(slope, [stepOf('scales', { layers: [{ gain: 9 }, { gain: 9 }, { gain: 9 }] })]);
    for (let x = 60; x < 140; x++) expect(after[30 * 200 + x]).toBeCloseTo(before[30 * 200 + x], 5);
  });

  it('shrink a layer at so many σ of its noise', () => {
    const sigma = 0.02;
    const frame = greyFrame(400, 300, () => 0.5 + sigma * scattered(random));
    const only = (threshold: number): Float32Array =>
      render(frame, [stepOf('scales', { layers: [{ gain: 1, threshold }], residual: 0 })])[0];
    expect(rms(only(0)) / (0.8908 * sigma)).toBeCloseTo(1, 1);
    // Of normally scattered values shrunk at σ the mean square is 2·((1 + 1)·Q(1) − φ(1)) = 0.150680 of σ²
    // (Q(1) = 0.158655, φ(1) = 0.241971).
    expect(Math.abs(rms(only(1)) / (0.8908 * sigma) / Math.sqrt(0.15068) - 1)).toBeLessThan(0.03);
    const plan = planOf(frame, [stepOf('scales', { layers: [{ threshold: 3 }] })]);
    const { noise } = scales.solved!(plan.steps[0].coefficients as never) as { noise: number[] };
    noise.forEach((v) => expect(Math.abs(v / sigma - 1)).toBeLessThan(0.03));
  });

  it('compress what is coarse towards its mean: 20 : 1 to 5 : 1, the core’s own contrast kept, no halo', () => {
    const [width, height, edge] = [600, 200, 300];
    const ripple = (x: number): number => 0.04 * Math.cos((2 * Math.PI * x) / 6);
    const frame = greyFrame(width, height, (x) => (x < edge ? 0.05 : 1 + ripple(x)));
    // Half of it is 0.05 and half 1: the mean is 0.525. (0.525 + 0.475 k)/(0.525 − 0.475 k) = 5 where k = 2/2.85·… = 0.736842.
    const k = (0.525 * 4) / (0.475 * 6);
    const params = { compress: { from: 24, amount: 1 - k } };
    const [plane] = render(frame, [stepOf('scales', params)]);
    const row = plane.subarray(100 * width, 101 * width);
    const mean = (from: number, to: number): number =>
      row.subarray(from, to).reduce((sum, v) => sum + v, 0) / (to - from);
    const [dark, bright] = [mean(60, 180), mean(420, 540)];
    expect(bright / dark).toBeGreaterThan(4.8);
    expect(bright / dark).toBeLessThan(5.2);
    const swing = (row[480] - row[483]) / 2;
    expect(Math.abs(swing / 0.04 - 1)).toBeLessThan(0.05);
    // Beside the edge neither side goes further beyond its own level than 3 % of the edge.
    const most = 0.03 * (bright - dark);
    for (let x = 240; x < edge; x++) expect(Math.abs(row[x] - dark)).toBeLessThan(most);
    for (let x = edge; x < 360; x++) expect(Math.abs(row[x] - ripple(x) - bright)).toBeLessThan(most);
  });

  it('at a smaller level are nearly what full size comes to', () => {
    const frame = greyFrame(256, 192, (x, y) => 0.5 + 0.2 * Math.sin(x / 9) * Math.cos(y / 13));
    const plan = planOf(frame, [stepOf('scales', { layers: [1, 1, 2, 1.5].map((gain) => ({ gain })) })]);
    const full = evaluate(plan, 0, { x: 0, y: 0, width: 256, height: 192 }).planes[0];
    const half = evaluate(plan, 1, { x: 0, y: 0, width: 128, height: 96 }).planes[0];
    let most = 0;
    for (let y = 8; y < 88; y++)
      for (let x = 8; x < 120; x++) {
        const i = 2 * y * 256 + 2 * x;
        most = Math.max(
          most,
          Math.abs(half[y * 128 + x] - (full[i] + full[i + 1] + full[i + 256] + full[i + 257]) / 4)
        );
      }
    expect(most).toBeLessThan(0.01);
  });
});
