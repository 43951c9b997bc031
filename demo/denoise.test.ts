import { describe, expect, it } from 'vitest';
import { sigmaAt } from '../src/core/measure/noise-curve';
import { takenFigures, takenOut } from '../src/core/measure/taken-out';
import type { DenoiseSolution } from '../src/core/ops/denoise';
import { evaluate } from '../src/core/path/evaluate';
import type { Plan } from '../src/core/path/plan';
import { floatFrame, planOf, stepOf } from '../src/core/testing';
import { CLEAN, CLEAN_HEIGHT, CLEAN_WIDTH, cleanPicture, withNoise } from './clean-pictures';
import fixture from './denoise.fixture.json';
import { expose } from './sky/expose';
import { sessionOf } from './sky/frames';

/** Noise taken out, against pictures that are known without it and what scikit-image makes of the same samples. */

const SIGMAS = [0.02, 0.05, 0.1];
/** By so many dB it is to be better than the better of the others. */
const BETTER = 0.3;

function planned(grey: ArrayLike<number>, width: number, height: number, params: object = {}): Plan {
  const rgb = Float32Array.from({ length: 3 * width * height }, (_, i) => grey[Math.floor(i / 3)]);
  const step = stepOf('denoise', params, { on: { model: 'rgb', channels: ['g'] } });
  return planOf(floatFrame(width, height, rgb), [step], [], 'linear');
}
const whole = (plan: Plan): Float32Array => {
  const { width, height } = plan.geometry;
  return evaluate(plan, 0, { x: 0, y: 0, width, height }).planes[1];
};
const psnr = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  -10 * Math.log10(Array.from(a).reduce((sum, v, i) => sum + (v - b[i]) ** 2, 0) / a.length);

describe.each(CLEAN.map((id, p) => ({ id, p })))('noise in $id', ({ id, p }) => {
  const clean = cleanPicture(id);
  it.each(SIGMAS.map((sigma, k) => ({ sigma, k })))(
    'of σ = $sigma, measured and taken out, leaves less than the better of two others that know it',
    ({ sigma, k }) => {
      const noisy = withNoise(clean, sigma, 40 + 3 * p + k);
      const theirs = fixture.results.find((r) => r.picture === id && r.sigma === sigma)!;
      // The very picture that they were given.
      expect(psnr(clean, noisy)).toBeCloseTo(theirs.noisy, 2);
      const mine = psnr(clean, whole(planned(noisy, CLEAN_WIDTH, CLEAN_HEIGHT)));
      expect(mine).toBeGreaterThan(Math.max(theirs.means, theirs.wavelet) + BETTER);
    }
  );
});

describe('the noise of a frame of the sky', () => {
  const [width, height] = [900, 600];
  const [, taking] = sessionOf('lantern', width, height).exposures;
  /** The same field twice, with noise of its own each time. */
  const frames = [1, 2].map((k) => {
    const { samples } = expose({ ...taking, lines: 0, hot: 0, seed: 700 + 10 * k }, width, height);
    return Float32Array.from(samples, (v) => v / 65535);
  });
  const plans = frames.map((frame) => planned(frame, width, height));
  const results = plans.map(whole);

  it('is told by its light, within 6 % of what the maker gave it', () => {
    for (const { steps } of plans) {
      const { noise } = steps[0].op.solved!(steps[0].coefficients) as DenoiseSolution;
      for (const counts of [560, 900, 1300]) {
        const truth = Math.sqrt(counts * taking.gain + taking.readNoise ** 2) / 65535;
        expect(Math.abs(sigmaAt(noise[0], counts / 65535) / truth - 1)).toBeLessThan(0.06);
      }
    }
  });

  it('is taken out with less than 5 % of structure in it: what is taken out of both alike', () => {
    let [alike, taken] = [0, 0];
    for (let i = 0; i < width * height; i++) {
      const [a, b] = frames.map((frame, k) => frame[i] - results[k][i]);
      alike += a * b;
      taken += (a * a + b * b) / 2;
    }
    expect(alike / taken).toBeLessThan(0.05);
    for (const [k, frame] of frames.entries()) {
      const { structure, sigma } = takenFigures(takenOut(frame, results[k], width, height));
      expect(structure).toBeLessThan(0.05);
      expect(sigma * 65535).toBeGreaterThan(Math.sqrt(taking.sky * taking.gain + taking.readNoise ** 2));
    }
  });
});

describe('what is taken out', () => {
  const [width, height] = [300, 200];
  const flat = new Float32Array(width * height).fill(0.5);
  const noisy = withNoise(flat, 0.03, 7);

  it('is noise where it is white, structure where it is a slope, and both in part', () => {
    const figures = (before: Float32Array): ReturnType<typeof takenFigures> =>
      takenFigures(takenOut(before, flat, width, height));
    expect(figures(noisy).sigma).toBeCloseTo(0.03, 3);
    expect(figures(noisy).structure).toBeLessThan(0.01);
    const wave = flat.map((v, i) => v + 0.03 * Math.sqrt(2) * Math.sin((i % width) / 9));
    expect(figures(wave).structure).toBeGreaterThan(0.97);
    // Half of the squares each.
    const both = noisy.map((v, i) => v + wave[i] - 0.5);
    expect(figures(both).structure).toBeCloseTo(0.5, 1);
  });

  it('leaves missing samples out', () => {
    const gaps = noisy.map((v, i) => (i % 7 === 0 ? Number.NaN : v));
    expect(takenFigures(takenOut(gaps, flat, width, height)).sigma).toBeCloseTo(0.03, 3);
    const none = new Float32Array(width * height).fill(Number.NaN);
    expect(takenFigures(takenOut(none, flat, width, height))).toEqual({ sigma: 0, structure: 0 });
  });
});
