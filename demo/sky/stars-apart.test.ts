import { describe, expect, it } from 'vitest';
import type { StarsSolution } from '../../src/core/ops/stars';
import { restOf } from '../../src/core/ops/stars';
import type { Step } from '../../src/core/document';
import { evaluate } from '../../src/core/path/evaluate';
import type { Plan } from '../../src/core/path/plan';
import { randomStream } from '../../src/core/random';
import { greyFrame, planOf, stepOf } from '../../src/core/testing';
import type { Frame } from '../../src/core/raster/frame';
import { expose, gradientAt, type Exposing } from './expose';
import { FRAME_HEIGHT, FRAME_WIDTH, sessionOf } from './frames';
import { onGrid } from './objects';
import { moffatAlpha, type Star } from './stars';

/** Stars taken out, against what the maker of the frames put in. */

const WHITE = 65535;
const [WIDTH, HEIGHT] = [FRAME_WIDTH, FRAME_HEIGHT];
/** Nearer to the border what is a star is not told so surely. */
const BORDER = 12;

const frameOf = (grey: ArrayLike<number>, white = 1, width = WIDTH, height = HEIGHT): Frame =>
  greyFrame(width, height, (x, y) => grey[y * width + x] / white);
const inner = ({ x, y }: { readonly x: number; readonly y: number }): boolean =>
  x > BORDER && y > BORDER && x < WIDTH - BORDER && y < HEIGHT - BORDER;

/** Sky, object and stars, as the maker knows them. */
function truthOf(taking: Exposing): {
  readonly surround: Float32Array;
  readonly sigmaAt: (i: number) => number;
  readonly peakOf: (star: Star) => number;
} {
  const surround = onGrid(WIDTH, HEIGHT, taking.glow);
  for (let i = 0; i < surround.length; i++)
    surround[i] =
      surround[i] * taking.strength +
      taking.sky +
      gradientAt(taking.gradient, i % WIDTH, Math.floor(i / WIDTH), WIDTH, HEIGHT);
  const { psf, starlight, gain, readNoise } = taking;
  const alpha = moffatAlpha(psf);
  return {
    surround,
    sigmaAt: (i) => Math.sqrt(surround[i] * gain + readNoise ** 2),
    peakOf: (star) => (star.flux * starlight(star) * (psf.beta - 1)) / (Math.PI * alpha * alpha)
  };
}

const everywhere = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
/** A stretch as the panel begins with it, and sharpening by the frame's own point-spread. */
const stretch = (method: string): Step => stepOf('stretch', { method, auto: { below: 2.8, target: 0.25 } });
const sharpen = (fwhm: number): Step =>
  stepOf('deconvolve', { psf: { kind: 'moffat', fwhm, beta: 3 }, iterations: 5, rings: 0.8 });

interface Exposure {
  readonly taking: Exposing;
  readonly exposed: ReturnType<typeof expose>;
  readonly truth: ReturnType<typeof truthOf>;
}

const exposures = new Map<string, Exposure>();
function exposure(id: 'lantern' | 'quern', which: number): Exposure {
  const key = `${id} ${which}`;
  if (!exposures.has(key)) {
    const taking = sessionOf(id).exposures[which];
    exposures.set(key, { taking, exposed: expose(taking, WIDTH, HEIGHT), truth: truthOf(taking) });
  }
  return exposures.get(key)!;
}

interface Taken extends Exposure {
  readonly plan: Plan;
  readonly found: StarsSolution['stars'];
  /** Stars over 10 σ, the brightest first. */
  readonly bright: readonly Star[];
}

/** An exposure, what was made of it, and the stars that are found then. */
function taken(
  id: 'lantern' | 'quern',
  which: number,
  made: (taking: Exposing) => readonly Step[] = () => []
): Taken {
  const { taking, exposed, truth } = exposure(id, which);
  const frame = frameOf(exposed.samples, WHITE);
  const steps = made(taking);
  const [grey] = steps.length > 0 ? evaluate(planOf(frame, steps, [], 'linear'), 0, everywhere).planes : [];
  const coded = steps.some(({ op }) => op === 'stretch');
  const plan = planOf(grey ? frameOf(grey) : frame, [stepOf('stars')], [], coded ? 'coded' : 'linear');
  const { stars: found } = plan.steps[0].op.solved!(plan.steps[0].coefficients) as StarsSolution;
  const at = ({ x, y }: Star): number => Math.floor(y) * WIDTH + Math.floor(x);
  const bright = taking.stars
    .filter((star) => inner(star) && truth.peakOf(star) > 10 * truth.sigmaAt(at(star)))
    .sort((a, b) => truth.peakOf(b) - truth.peakOf(a));
  return { taking, exposed, truth, plan, found, bright };
}

/** Which part of stars was found, and which part of the finds is none. */
function told(
  { taking, exposed, truth, found }: Taken,
  stars: readonly Star[]
): { hit: number; wrong: number } {
  const lies = (star: Star): boolean =>
    found.some((f) => Math.hypot(f.x - 0.5 - star.x, f.y - 0.5 - star.y) < Math.max(2, f.radius));
  const seen = taking.stars.filter((star) => truth.peakOf(star) > 1.5 * exposed.truth.noise);
  const finds = found.filter(inner);
  const wrong = finds.filter((f) => !seen.some((s) => Math.hypot(f.x - 0.5 - s.x, f.y - 0.5 - s.y) < 3));
  return { hit: stars.filter(lies).length / stars.length, wrong: wrong.length / finds.length };
}

// The sulphur and the hydrogen of the Lantern, and the Quern in all light: few stars before a nebula, many about a galaxy.
describe.each([
  ['lantern', 0],
  ['lantern', 1],
  ['quern', 0]
] as const)('the stars of %s, exposure %i', (id, which) => {
  const all = taken(id, which);
  const { truth, found, plan, bright } = all;

  it('over 10 σ are found, 98 of 100, and 1 of 100 finds is none', () => {
    expect(bright.length).toBeGreaterThan(600);
    const { hit, wrong } = told(all, bright);
    expect(hit).toBeGreaterThan(0.98);
    expect(wrong).toBeLessThan(0.01);
  });

  it('leave the surround under them within 2 σ', () => {
    const [out] = evaluate(plan, 0, everywhere).planes;
    let [squares, off, count] = [0, 0, 0];
    for (const { x, y, radius } of found) {
      for (let v = Math.max(0, Math.floor(y - radius)); v < Math.min(HEIGHT, y + radius); v++)
        for (let u = Math.max(0, Math.floor(x - radius)); u < Math.min(WIDTH, x + radius); u++) {
          if (Math.hypot(u + 0.5 - x, v + 0.5 - y) > radius) continue;
          const i = v * WIDTH + u;
          const by = (out[i] * WHITE - truth.surround[i]) / truth.sigmaAt(i);
          squares += by * by;
          off += by;
          count++;
        }
    }
    expect(Math.sqrt(squares / count)).toBeLessThan(2);
    // Neither holes nor what is left of the stars.
    expect(Math.abs(off / count)).toBeLessThan(0.2);
  });
});

// A stretch makes bright stars wider than faint ones; sharpening makes points of noise.
describe.each([
  ['lantern', 0, 'a midtone stretch', 0.98, 0.01, () => [stretch('midtone')]],
  ['lantern', 1, 'an asinh stretch', 0.98, 0.02, () => [stretch('asinh')]],
  ['quern', 0, 'a midtone stretch', 0.98, 0.01, () => [stretch('midtone')]],
  [
    ...(['lantern', 0, 'sharpening and a stretch', 0.98, 0.12] as const),
    ({ psf }: Exposing) => [sharpen(psf.fwhm), stretch('midtone')]
  ]
] as const)('the stars of %s, exposure %i, after %s', (id, which, _, most, few, made) => {
  it('are found as before, all but none of the brightest left', () => {
    const all = taken(id, which, made);
    const { hit, wrong } = told(all, all.bright);
    expect(hit).toBeGreaterThanOrEqual(most - 0.001);
    expect(wrong).toBeLessThan(few);
    expect(told(all, all.bright.slice(0, 60)).hit).toBeGreaterThan(0.98);
  });
});

describe('stars and what is left without them', () => {
  const [width, height] = [500, 360];
  const random = randomStream(12);
  const taking = sessionOf('quern', width, height).exposures[0];
  const exposed = expose(taking, width, height);
  const frame = frameOf(exposed.samples, WHITE, width, height);
  const rect = { x: 0, y: 0, width, height };
  const kept = (keep: string, more: object = {}, where: object | null = null): Float32Array => {
    const step = stepOf('stars', { keep, ...more }, { where });
    return evaluate(planOf(frame, [step], [], 'linear'), 0, rect).planes[0];
  };

  it('add up to what came in, to the bit', () => {
    const [rest, stars] = [kept('rest'), kept('stars')];
    let [changed, off] = [0, 0];
    rest.forEach((v, i) => {
      if (Math.fround(v + stars[i]) !== Math.fround(exposed.samples[i] / WHITE)) off++;
      if (stars[i] !== 0) changed++;
    });
    expect(off).toBe(0);
    expect(changed).toBeGreaterThan(1000);
    for (let k = 0; k < 20_000; k++) {
      const [sample, filled] = [0, 0].map(() => Math.fround((random() - 0.1) * 10 ** (-6 * random())));
      const left = restOf(sample, filled);
      expect(Math.fround(left + Math.fround(sample - left))).toBe(sample);
    }
  });

  it('stay where a mask protects them, to the sample', () => {
    // All that lies to the left: a ramp that ends in the middle.
    const where = {
      terms: [
        {
          source: { kind: 'ramp', shape: 'straight', from: [251, 0], to: [250, 0] },
          curve: [
            [0, 0],
            [1, 1]
          ]
        }
      ]
    };
    const rest = kept('rest', {}, where);
    let [left, right] = [0, 0];
    rest.forEach((v, i) => {
      if (v === Math.fround(exposed.samples[i] / WHITE)) return;
      if (i % width < 249) left++;
      else right++;
    });
    expect(left).toBe(0);
    expect(right).toBeGreaterThan(300);
  });

  it('are added and left by hand', () => {
    const plan = planOf(frame, [stepOf('stars')], [], 'linear');
    const { stars } = plan.steps[0].op.solved!(plan.steps[0].coefficients) as StarsSolution;
    const [first] = stars;
    const place: [number, number] = [Math.round(first.x), Math.round(first.y)];
    const i = place[1] * width + place[0];
    const came = Math.fround(exposed.samples[i] / WHITE);
    expect(kept('rest')[i]).toBeLessThan(came);
    expect(kept('rest', { removed: [place] })[i]).toBe(came);
    // With so high a threshold none is found; the one that is shown is taken out, as far as its light reaches.
    expect(kept('rest', { threshold: 100, largest: 4 })[i]).toBe(came);
    expect(kept('rest', { threshold: 100, largest: 30, removed: [], added: [place] })[i]).toBeLessThan(came);
  });

  it('come out the same in parts', () => {
    const plan = planOf(frame, [stepOf('stars')], [], 'linear');
    const all = evaluate(plan, 0, rect).planes[0];
    const part = { x: 211, y: 143, width: 90, height: 70 };
    const [cut] = evaluate(plan, 0, part).planes;
    for (let y = 0; y < part.height; y++) {
      const from = (part.y + y) * width + part.x;
      expect(cut.slice(y * part.width, (y + 1) * part.width)).toEqual(all.slice(from, from + part.width));
    }
  });
});
