import { beforeAll, describe, expect, it } from 'vitest';
import { readFileSync } from 'node:fs';
import { openFrame } from '../../src/core/files/open-frame';
import { evaluate } from '../../src/core/path/evaluate';
import { SHAPE_REACH, starShape } from '../../src/core/measure/star-shape';
import type { DeconvolveSolution } from '../../src/core/ops/deconvolve';
import { floatFrame, planOf, stepOf } from '../../src/core/testing';
import type { Rect } from '../../src/core/raster/raster';
import { expose, type Exposed, type Truth } from './expose';
import { sessionOf } from './frames';

/** Sharpening by the point-spread against what the maker of the frames put in. */

const [WIDTH, HEIGHT] = [1000, 700];
const WHITE = 65535;
const [taking] = sessionOf('quern', WIDTH, HEIGHT).exposures;

describe.each([['lantern', 'H']])('the point-spread of %s %s', (id, filter) => {
  it('is measured from its stars: width within 3 %, roundness within 0.03', async () => {
    const bytes = new Uint8Array(readFileSync(`demo/frames/${id}-${filter.toLowerCase()}.fits`));
    const { frame } = await openFrame(bytes);
    const truths = JSON.parse(readFileSync(`demo/frames/${id}.truth.json`, 'utf8')) as Truth[];
    const { psf: truth } = truths.find((t) => t.filter === filter)!;
    const plan = planOf(frame, [stepOf('deconvolve', { psf: { kind: 'stars' } })], [], 'linear');
    const { measured } = plan.steps[0].op.solved!(plan.steps[0].coefficients) as DeconvolveSolution;
    expect(measured!.stars.length).toBeGreaterThan(20);
    const { fwhm, ratio, beta } = measured!.psf!;
    expect(Math.abs(fwhm / truth.fwhm - 1)).toBeLessThan(0.03);
    expect(ratio).toBeGreaterThan(0.97);
    expect(Math.abs(beta / truth.beta - 1)).toBeLessThan(0.15);
  });
});

describe('a frame sharpened by its point-spread', () => {
  const { psf, sky, stars, starlight } = taking;
  let before: Float32Array;
  let after: Float32Array;
  let exposed: Exposed;

  /** Stars that are bright, not burnt out, and stand alone. */
  const chosen = stars
    .filter(({ x, y }) => x > 40 && y > 40 && x < WIDTH - 40 && y < HEIGHT - 40)
    .filter(
      (s) => !stars.some((o) => o !== s && Math.hypot(o.x - s.x, o.y - s.y) < 14 && o.flux > 0.02 * s.flux)
    )
    .sort((a, b) => starlight(b) * b.flux - starlight(a) * a.flux)
    .slice(0, 200);
  const bright = chosen.slice(0, 40);

  function sharpened(params: object, rect: Rect): Float32Array {
    const rgb = Float32Array.from(
      { length: 3 * WIDTH * HEIGHT },
      (_, i) => exposed.samples[Math.floor(i / 3)] / WHITE
    );
    const how = { psf: { kind: 'moffat', ...psf }, iterations: 40, ...params };
    const step = stepOf('deconvolve', how, { on: { model: 'rgb', channels: ['r'] } });
    return evaluate(planOf(floatFrame(WIDTH, HEIGHT, rgb), [step], [], 'linear'), 0, rect).planes[0];
  }

  beforeAll(() => {
    exposed = expose({ ...taking, gradient: [0], hot: 0, glow: () => 0 }, WIDTH, HEIGHT);
    before = Float32Array.from(exposed.samples, (v) => v / WHITE);
    after = sharpened({ rings: 1 }, { x: 0, y: 0, width: WIDTH, height: HEIGHT });
  }, 120_000);

  it('has stars of at most 0.7 of their width', () => {
    const widths = (plane: Float32Array): number[] =>
      bright.flatMap(({ x, y }) => {
        const [left, top] = [Math.round(x) - SHAPE_REACH, Math.round(y) - SHAPE_REACH];
        const side = 2 * SHAPE_REACH + 1;
        const square = Float32Array.from(
          { length: side * side },
          (_, i) => plane[(top + Math.floor(i / side)) * WIDTH + left + (i % side)]
        );
        const shape = starShape(square);
        return shape ? [shape.spread.fwhm] : [];
      });
    const [wide, narrow] = [before, after].map((plane) => median(widths(plane)));
    expect(Math.abs(wide / psf.fwhm - 1)).toBeLessThan(0.03);
    expect(narrow / psf.fwhm).toBeLessThan(0.7);
  });

  it('keeps the light of 200 stars within 1 %', () => {
    const light = (plane: Float32Array, cx: number, cy: number): number => {
      let [sum, inside] = [0, 0];
      const about: number[] = [];
      for (let y = Math.floor(cy) - 22; y <= cy + 22; y++)
        for (let x = Math.floor(cx) - 22; x <= cx + 22; x++) {
          const r = Math.hypot(x - cx, y - cy);
          if (r < 12) {
            sum += plane[y * WIDTH + x];
            inside++;
          } else if (r > 16) about.push(plane[y * WIDTH + x]);
        }
      return sum - (inside * about.reduce((a, b) => a + b, 0)) / about.length;
    };
    expect(chosen).toHaveLength(200);
    const kept = chosen.map(({ x, y }) => light(after, x, y) / light(before, x, y));
    expect(Math.abs(median(kept) - 1)).toBeLessThan(0.01);
  });

  it('has no ring about a star that is deeper than 2 σ', () => {
    const sigma = exposed.truth.noise / WHITE;
    /** How deep the mean of each ring about a star lies under the sky, the deepest of all radii. */
    const deepest = (plane: Float32Array, cx: number, cy: number, width = WIDTH): number => {
      const rings = Array.from({ length: 12 }, () => ({ sum: 0, count: 0 }));
      for (let y = Math.floor(cy) - 12; y <= cy + 12; y++)
        for (let x = Math.floor(cx) - 12; x <= cx + 12; x++) {
          const ring = rings[Math.floor(Math.hypot(x - cx, y - cy))];
          if (!ring) continue;
          ring.sum += plane[y * width + x];
          ring.count++;
        }
      return Math.max(...rings.map(({ sum, count }) => sky / WHITE - sum / count)) / sigma;
    };
    expect(Math.max(...bright.map(({ x, y }) => deepest(after, x, y)))).toBeLessThan(2);
    // The brightest has a deep one where they are not held.
    const [{ x, y }] = bright;
    const rect = { x: Math.floor(x) - 30, y: Math.floor(y) - 30, width: 60, height: 60 };
    expect(deepest(sharpened({}, rect), x - rect.x, y - rect.y, 60)).toBeGreaterThan(20);
  });
});

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1];
