import { describe, expect, it, vi } from 'vitest';
import type { Step } from '../document';
import { pinsRead, type Pin } from '../document';
import { opOf } from '../ops';
import { randomStream } from '../random';
import { samplesOf, seenOf } from '../measure/seen';
import { finished, floatFrame, noiseFrame, pictureOf, planOf, stepOf } from '../testing';
import { analysed, ANALYSIS_PIXELS, levelOfAtMost, meanAround } from './analysis';
import { joined, measurePicture, DENSITY_CELLS } from './measure';
import { planSize, type Plan } from './plan';
import { Planner } from './planner';
import { readPins, Unsolved, type SolveAsk } from './solver';

const pin = (x: number, y: number, size: number): Pin => ({
  id: 'n',
  name: 'n',
  x,
  y,
  size,
  role: 'neutral'
});

describe('the analysis raster', () => {
  it('is the frame box-averaged to at most 1,048,576 pixels', () => {
    const frame = noiseFrame(1500, 1000, false, 'u8');
    const plan = planOf(frame);
    expect(levelOfAtMost(plan, ANALYSIS_PIXELS)).toBe(1);
    const { planes, width, height } = finished(analysed(plan)).raster;
    expect([width, height]).toEqual([750, 500]);
    const { samples } = frame.levels[0];
    for (const [x, y] of [
      [0, 0],
      [311, 207],
      [749, 499]
    ]) {
      for (let c = 0; c < 3; c++) {
        const at = (u: number, v: number): number => samples[((2 * y + v) * 1500 + 2 * x + u) * 3 + c] / 255;
        const mean = (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4;
        expect(planes[c][y * 750 + x]).toBeCloseTo(mean, 4);
      }
    }
  });

  it('leaves out pixels with a missing sample', () => {
    const rgb = Float32Array.from({ length: 30 }, (_, i) => (i === 4 ? Number.NaN : i / 30));
    const { raster } = finished(analysed(planOf(floatFrame(10, 1, rgb))));
    const seen = seenOf(10, 1, raster.planes);
    expect([...seen.present!]).toEqual([1, 0, 1, 1, 1, 1, 1, 1, 1, 1]);
    expect(samplesOf(seen).n).toBe(9);
    expect(samplesOf(seen).planes[0][1]).toBe(Math.fround(6 / 30));
    expect(
      seenOf(
        2,
        1,
        [0, 1, 2].map(() => new Float32Array(2))
      ).present
    ).toBeNull();
  });

  it('is the input of the step: what stands before it counts', () => {
    const frame = noiseFrame(60, 40, false, 'f32');
    const halved = stepOf('mix', { rows: { r: { r: 0.5 }, g: { g: 0.5 }, b: { b: 0.5 } } });
    const solve = (steps: readonly Step[]): { gain: number[] } => {
      const step = planOf(frame, steps).steps.at(-1)!;
      return step.op.solved!(step.coefficients) as { gain: number[] };
    };
    const bright = stepOf('balance', { method: 'bright' });
    const [alone, after] = [solve([bright]), solve([halved, bright])];
    after.gain.forEach((g, c) => expect(g / alone.gain[c]).toBeCloseTo(2, 1));
  });
});

describe('a planner', () => {
  it('solves a step once, however often it is asked, and anew when something before it changes', () => {
    const noise = noiseFrame(40, 30, false, 'f32');
    const planner = new Planner(() => noise);
    const solve = vi.spyOn(opOf('equalize'), 'solve');
    const [mix, equalize, tint] = [stepOf('mix'), stepOf('equalize'), stepOf('tint')];
    planner.plan(pictureOf([mix, equalize]));
    planner.plan(pictureOf([mix, equalize, tint]));
    planner.plan(pictureOf([mix, equalize]));
    // How it is blended and where it acts is not what it is solved from.
    planner.plan(pictureOf([mix, { ...equalize, blend: { ...equalize.blend, opacity: 0.4 } }]));
    expect(solve).toHaveBeenCalledTimes(1);
    planner.plan(pictureOf([stepOf('mix', { rows: { r: { g: 1 } } }), equalize]));
    expect(solve).toHaveBeenCalledTimes(2);
    planner.plan(pictureOf([mix, { ...equalize, on: { model: 'lab', channels: ['l'] } }]));
    expect(solve).toHaveBeenCalledTimes(3);
    solve.mockRestore();
  });

  it('leaves solving to others where it is told to, and goes on by what they found', () => {
    const noise = noiseFrame(40, 30, false, 'f32');
    const picture = pictureOf([
      stepOf('balance', { method: 'grey' }),
      stepOf('mix'),
      stepOf('levels', { auto: { clip: 1 } }),
      stepOf('group', { steps: [stepOf('invert'), stepOf('equalize')] })
    ]);
    const [planner, other] = [0, 1].map(() => new Planner(() => noise, undefined, new Map()));
    const asked: SolveAsk[] = [];
    for (;;) {
      try {
        planner.plan(picture);
        break;
      } catch (error) {
        if (!(error instanceof Unsolved)) throw error;
        asked.push(error.ask);
        // The other one knows what it was told before, and gets all else with the question, as by a message.
        const solution = other.solve(structuredClone(error.ask));
        for (const one of [planner, other]) one.learn(error.ask.key, structuredClone(solution));
      }
    }
    expect(asked.map(({ step, steps }) => [step.op, steps.length])).toEqual([
      ['balance', 0],
      ['levels', 2],
      // Within its group the invert comes before it.
      ['equalize', 4]
    ]);
    const coefficientsOf = ({ steps }: Plan): unknown[] =>
      steps.flatMap((step) => [step.coefficients, ...step.inside.map((s) => s.coefficients)]);
    expect(coefficientsOf(planner.plan(picture))).toEqual(
      coefficientsOf(new Planner(() => noise).plan(picture))
    );
  });

  it('knows what lies beside another picture, and misses its corners, from what is black there', () => {
    const bright = floatFrame(
      40,
      40,
      Array.from({ length: 4800 }, (_, i) => 0.5 + i / 20_000)
    );
    const turned = pictureOf([
      stepOf('straighten', { angle: 20, crop: { x: 0, y: 0, width: 40, height: 40 } }),
      stepOf('levels', { auto: { clip: 0 } })
    ]);
    const planner = new Planner(() => bright);
    const blackOf = ({ steps }: Plan): number =>
      (steps[1].op.solved!(steps[1].coefficients) as { levels: { black: number }[] }).levels[0].black;
    const own = planner.plan(turned);
    expect(blackOf(own)).toBeCloseTo(0, 6);
    const beside = planner.plan(turned, { common: own.geometry, beyond: Number.NaN });
    expect(blackOf(beside)).toBeGreaterThan(0.49);
  });

  it('leaves steps that are off out', () => {
    const noise = noiseFrame(8, 8);
    const planner = new Planner(() => noise);
    expect(
      planner
        .plan(pictureOf([stepOf('blur', {}, { enabled: false }), stepOf('invert')]))
        .steps.map((s) => s.op.id)
    ).toEqual(['invert']);
  });

  it('tells the size of each level of a cropped picture', () => {
    const plan = planOf(noiseFrame(100, 80), [
      stepOf('straighten', { crop: { x: 10, y: 5, width: 33, height: 21 } })
    ]);
    expect([planSize(plan, 0), planSize(plan, 1), planSize(plan, 3)]).toEqual([
      { width: 33, height: 21 },
      { width: 17, height: 11 },
      { width: 5, height: 3 }
    ]);
  });

  it('knows which pins the steps hang on', () => {
    const pins = [pin(1, 2, 3), { ...pin(4, 5, 3), role: 'read' as const }];
    expect(pinsRead([stepOf('balance', { method: 'pins' })], pins)).toEqual([pins[0]]);
    expect(pinsRead([stepOf('balance', { method: 'grey' }), stepOf('mix')], pins)).toEqual([]);
  });
});

describe('pins', () => {
  const frame = noiseFrame(50, 40, false, 'f32');
  const { samples } = frame.levels[0];

  it('read the mean of their square, cut at the edges', () => {
    const plan = planOf(frame);
    const mean = (x0: number, y0: number, x1: number, y1: number, c: number): number => {
      let [sum, count] = [0, 0];
      for (let y = y0; y <= y1; y++)
        for (let x = x0; x <= x1; x++, count++) sum += samples[(y * 50 + x) * 3 + c];
      return sum / count;
    };
    const [inside] = readPins(plan, [pin(20, 15, 5)]);
    inside.rgb.forEach((v, c) => expect(v).toBeCloseTo(mean(18, 13, 22, 17, c), 5));
    const [corner] = readPins(plan, [pin(0, 39, 5)]);
    corner.rgb.forEach((v, c) => expect(v).toBeCloseTo(mean(0, 37, 2, 39, c), 5));
  });

  it('beside the picture are left out', () => {
    const plan = planOf(frame, [stepOf('straighten', { crop: { x: 30, y: 20, width: 10, height: 10 } })]);
    expect(readPins(plan, [pin(5, 5, 3), pin(35, 25, 1)])).toHaveLength(1);
    expect(meanAround(plan, { x: 35.5, y: 25.5 }, 1)![0]).toBeCloseTo(samples[(25 * 50 + 35) * 3], 6);
  });
});

describe('what the instruments show', () => {
  it('are histograms of any channels and the density over a and b', () => {
    const rgb = Array.from({ length: 200 * 3 }, (_, i) => (i % 3 === 0 ? 0.75 : 0.25));
    const plan = planOf(floatFrame(20, 10, rgb));
    const { histograms, density } = measurePicture(plan, ['rgb.r', 'lab.a', 'lab.b', 'cmyk.m']);
    expect(histograms[0].counts[192]).toBe(200);
    // Magenta ink of (0.75, 0.25, 0.25) is two thirds.
    expect(histograms[3].counts[Math.floor((2 / 3) * 256)]).toBe(200);
    // Its a* is 54, its b* 30: right of the middle and above it.
    const at = density.indexOf(200);
    expect(at % DENSITY_CELLS).toBeGreaterThan(DENSITY_CELLS * 0.7);
    expect(Math.floor(at / DENSITY_CELLS)).toBeLessThan(DENSITY_CELLS * 0.4);
    // Nobody who asks for one of the two alone wants the plane.
    expect(measurePicture(plan, ['lab.a']).density).toHaveLength(0);
    // Over the upper half alone: 0.75 in its middle, 0.25 below it.
    const [r, g] = measurePicture(plan, ['rgb.r', 'rgb.g'], undefined, undefined, [0.5, 1]).histograms;
    expect([r.counts[128], r.below, g.counts[0], g.below]).toEqual([200, 0, 200, 200]);
  });

  it('are the same measured in parts and joined', () => {
    const random = randomStream(8);
    const rgb = Array.from({ length: 40 * 31 * 3 }, () => 1.4 * random() - 0.2);
    const plan = planOf(floatFrame(40, 31, rgb));
    const channels = ['rgb.r', 'lab.a', 'lab.b'];
    const parts = [0, 1, 2, 3].map((at) => measurePicture(plan, channels, undefined, { at, of: 4 }));
    // A quarter of 31 rows begins at rows 0, 7, 15 and 23.
    expect(parts.map(({ histograms }) => histograms[0].total / 40)).toEqual([7, 8, 8, 8]);
    const whole = measurePicture(plan, channels);
    expect(joined(parts)).toEqual(whole);
    expect(whole.histograms[0].below).toBe(rgb.filter((v, i) => i % 3 === 0 && v < 0).length);
    expect(() => joined([])).toThrow(RangeError);
  });
});
