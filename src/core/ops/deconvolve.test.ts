import { describe, expect, it } from 'vitest';
import { evaluate } from '../path/evaluate';
import { noiseFrame, planOf, stepOf } from '../testing';
import { deconvolve, type DeconvolveSolution } from './deconvolve';
import { givenFor } from './op';
import { modelOf } from '../colour';

describe('sharpening by the point-spread', () => {
  it.each([
    { psf: { kind: 'gauss', fwhm: 2.5 }, iterations: 30 },
    { psf: { kind: 'moffat', fwhm: 2, beta: 3 }, iterations: 40 },
    { psf: { kind: 'gauss', fwhm: 3 }, iterations: 12, rings: 1 }
  ])('does not feel what lies beyond its reach: %j', (given) => {
    const [width, height] = [900, 24];
    const plan = planOf(noiseFrame(width, height), [stepOf('deconvolve', given)]);
    const reach = plan.steps[0].reach(1);
    expect(reach).toBeLessThan(420);
    const all = evaluate(plan, 0, { x: 0, y: 0, width, height }).planes[0];
    const [part] = evaluate(plan, 0, { x: 440, y: 5, width: 20, height: 9 }).planes;
    for (let y = 0; y < 9; y++)
      for (let x = 0; x < 20; x++) expect(part[y * 20 + x]).toBe(all[(5 + y) * width + 440 + x]);
  });

  it('reaches as far as the point-spread that was measured asks for', () => {
    const params = deconvolve.params.parse({ psf: { kind: 'stars' } });
    const reach = (fwhm: number): number => {
      const psf = { kind: 'moffat', fwhm, beta: 3, ratio: 1, angle: 0 } as const;
      const measured: DeconvolveSolution = { measured: { psf, stars: [], mean: [] }, noise: [] };
      return deconvolve.reach!(params, 1, deconvolve.prepare(params, givenFor(modelOf('rgb')), measured));
    };
    expect(reach(12)).toBeGreaterThan(1.8 * reach(5));
    const none: DeconvolveSolution = { measured: { psf: null, stars: [], mean: [] }, noise: [] };
    expect(deconvolve.reach!(params, 1, deconvolve.prepare(params, givenFor(modelOf('rgb')), none))).toBe(0);
  });
});
