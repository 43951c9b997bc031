import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { noiseOf } from '../../src/core/measure/noise';
import { skyOf } from '../../src/core/measure/sky';
import type { SkyHow, SkyModel } from '../../src/core/measure/sky-model';
import { surfaceAt } from '../../src/core/measure/surface';
import { demingLine } from '../../src/core/measure/deming';
import { evaluate } from '../../src/core/path/evaluate';
import { randomStream } from '../../src/core/random';
import type { Frame } from '../../src/core/raster/frame';
import { openFrame } from '../../src/core/files/open-frame';
import { planOf, stepOf } from '../../src/core/testing';
import { expose, gradientAt, type Truth } from './expose';
import { FRAME_HEIGHT, FRAME_WIDTH, sessionOf } from './frames';

/** What the steps of the sky find, against what the maker of the frames put in; all in counts of 65535. */

const [WIDTH, HEIGHT] = [FRAME_WIDTH, FRAME_HEIGHT];
const WHITE = 65535;

interface Made {
  readonly frame: Frame;
  readonly truth: Truth;
}

/** A frame as the set-up has made it, and what its maker knows. */
async function made(id: 'lantern' | 'quern', filter: string): Promise<Made> {
  const { frame } = await openFrame(
    new Uint8Array(readFileSync(`demo/frames/${id}-${filter.toLowerCase()}.fits`))
  );
  const truths = JSON.parse(readFileSync(`demo/frames/${id}.truth.json`, 'utf8')) as Truth[];
  return { frame, truth: truths.find((t) => t.filter === filter)! };
}

const whole = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
const rms = (values: readonly number[]): number =>
  Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length);
const plane = (samples: ArrayLike<number>): Float32Array => Float32Array.from(samples, (v) => v);

describe('the frames of the sky', () => {
  it('have the noise that was put in, within 3 %', () => {
    for (const exposing of sessionOf('quern', 600, 400).exposures) {
      const empty = {
        ...exposing,
        glow: () => 0,
        stars: [],
        lines: 0,
        hot: 0,
        trail: undefined,
        gradient: []
      };
      const { samples, truth } = expose(empty, 600, 400);
      expect(Math.abs(noiseOf(plane(samples), 600, 400) / truth.noise - 1)).toBeLessThan(0.03);
    }
  });

  it.each([
    ['lantern', 'O'],
    ['quern', 'H']
  ] as const)('%s %s: lines are levelled within 0.1 σ of what was put in', async (id, filter) => {
    const { frame, truth } = await made(id, filter);
    const { lines, noise } = truth;
    const plan = planOf(frame, [stepOf('lines', {})], [], 'linear');
    const { offsets } = plan.steps[0].op.solved!(plan.steps[0].coefficients) as { offsets: Float32Array[] };
    // Each less the mean of its neighbours: a slow part may be sky.
    const wanted = lines.map((v, i) => {
      const near = lines.slice(Math.max(0, i - 15), i + 16);
      return v - near.reduce((sum, n) => sum + n, 0) / near.length;
    });
    expect(rms(wanted) / noise).toBeGreaterThan(0.15);
    expect(rms(wanted.map((w, i) => offsets[0][i] * WHITE - w)) / noise).toBeLessThan(0.1);
    const row = { x: 0, y: 700, width: 40, height: 1 };
    const [before] = evaluate(planOf(frame, [], [], 'linear'), 0, row).planes;
    const [after] = evaluate(plan, 0, row).planes;
    after.forEach((v, i) => expect((before[i] - v) * WHITE).toBeCloseTo(offsets[0][700] * WHITE, 2));
  });

  const how: Partial<SkyHow> = {};
  const spare = { above: 1.5, grow: 20, rounds: 4 };

  it.each([
    ['quern', 'L', { ...how, spare }],
    ['quern', 'R', { ...how, spare }],
    ['quern', 'H', how],
    ['lantern', 'O', { ...how, spare }],
    ['lantern', 'H', { ...how, spare }],
    ['quern', 'R', { ...how, model: 'smooth', size: 500, spare }]
  ] as const)('%s %s: the sky is found within 0.5 σ, under the object as well', async (id, filter, by) => {
    const { frame, truth } = await made(id, filter);
    const plan = planOf(frame, [stepOf('sky', by)], [], 'linear');
    const { models } = plan.steps[0].op.solved!(plan.steps[0].coefficients) as { models: SkyModel[] };
    const half = WIDTH / 2;
    const rests: number[] = [];
    for (let y = 10; y < HEIGHT; y += 40)
      for (let x = 10; x < WIDTH; x += 40) {
        const wanted = truth.sky + gradientAt(truth.gradient, x, y, WIDTH, HEIGHT);
        const [u, v] = [(x + 0.5 - half) / half, (y + 0.5 - HEIGHT / 2) / half];
        rests.push(surfaceAt(models[0].surface, u, v) * WHITE - wanted);
      }
    expect(rms(rests) / truth.noise).toBeLessThan(0.5);
    const { boxes, spared } = models[0];
    expect(spared > 0 || boxes.some(({ used }) => !used)).toBe(true);
  });

  it('sky as a step leaves it even, at its level', async () => {
    const { frame, truth } = await made('quern', 'G');
    const plan = planOf(frame, [stepOf('sky', { spare })], [], 'linear');
    const { planes } = evaluate(plan, 0, whole);
    const corners = [
      [0, 0],
      [WIDTH - 120, 0],
      [0, HEIGHT - 120],
      [WIDTH - 120, HEIGHT - 120]
    ].map(([left, top]) => {
      const box: number[] = [];
      for (let y = top; y < top + 120; y++)
        for (let x = left; x < left + 120; x++) box.push(planes[0][y * WIDTH + x]);
      return skyOf(Float32Array.from(box)).level * WHITE;
    });
    const { noise, sky } = truth;
    expect(Math.max(...corners) - Math.min(...corners)).toBeLessThan(0.5 * noise);
    expect(Math.abs(corners[0] - sky)).toBeLessThan(2 * noise);
  });

  it('a matched pair comes to the gain within 1 % and the offset within 0.2 σ', () => {
    const [width, height] = [600, 400];
    const { clean, truth } = expose(sessionOf('lantern', width, height).exposures[1], width, height);
    const random = randomStream(5);
    const scatter = (sigma: number): number => {
      let sum = -6;
      for (let k = 0; k < 12; k++) sum += random();
      return sigma * sum;
    };
    const [gain, offset] = [0.37, 420];
    const [first, second] = [truth.noise, 7];
    const x = plane(clean).map((v) => (v + truth.sky + scatter(first)) / WHITE);
    const y = plane(clean).map((v) => (gain * (v + truth.sky) + offset + scatter(second)) / WHITE);
    const ratio = (noiseOf(y, width, height) / noiseOf(x, width, height)) ** 2;
    const line = demingLine(x, y, x.length, ratio)!;
    expect(Math.abs(line.gain / gain - 1)).toBeLessThan(0.01);
    // The offset where the sky is, which is what is matched.
    const at = truth.sky / WHITE;
    const level = line.offset + line.gain * at - (gain * at + offset / WHITE);
    expect(Math.abs(level * WHITE)).toBeLessThan(0.2 * second);
  });
});
