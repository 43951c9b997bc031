import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { stepSchema, type Step } from '../document';
import type { Frame } from '../raster/frame';
import { largestDifference, planOf, floatFrame, noiseFrame as noise } from '../testing';
import { tileRect, tilesIn, type Raster } from '../raster/raster';
import type { Patch } from '../ops';
import { evaluate, neededRect } from './evaluate';
import type { Plan, PreparedStep } from './plan';
import { quantize } from './quantize';

const WIDTH = 601;
const HEIGHT = 397;

const noiseFrame = (alpha = false): Frame => noise(WIDTH, HEIGHT, alpha);
const prepareSteps = (steps: readonly Step[]): readonly PreparedStep[] => planOf(noiseFrame(), steps).steps;
const planWith = (frame: Frame, steps: readonly PreparedStep[] = []): Plan => ({
  ...planOf(frame),
  steps
});

const step = (more: object): Step => stepSchema.parse({ id: 's', op: 'mix', params: {}, ...more });
const whole = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
const samplesOf = (raster: Raster): Uint16Array => {
  const out = new Uint16Array(WIDTH * HEIGHT * (raster.alpha ? 4 : 3));
  quantize(raster, out, WIDTH);
  return out;
};

/** A step that looks at its neighbours: the mean of the (2r+1)² around a pixel, edges repeated. */
function meanOf(radius: number): PreparedStep {
  const [plain] = prepareSteps([step({})]);
  const kernel = ({ planes, width, height }: Patch, _: unknown, out: readonly Float32Array[]): void => {
    const at = (v: number, size: number): number => Math.min(size - 1, Math.max(0, v));
    planes.forEach((plane, c) => {
      for (let y = 0; y < height; y++) {
        for (let x = 0; x < width; x++) {
          let sum = 0;
          for (let dy = -radius; dy <= radius; dy++) {
            for (let dx = -radius; dx <= radius; dx++)
              sum += plane[at(y + dy, height) * width + at(x + dx, width)];
          }
          out[c][y * width + x] = sum / (2 * radius + 1) ** 2;
        }
      }
    });
  };
  return { ...plain, op: { ...plain.op, kernel }, reach: () => radius };
}

describe('the evaluator', () => {
  it('gives back every sample where nothing is done', () => {
    const frame = noiseFrame(true);
    const made = samplesOf(evaluate(planWith(frame), 0, whole));
    expect(made.length).toBe(frame.levels[0].samples.length);
    expect(largestDifference(made, frame.levels[0].samples)).toBe(0);
  });

  it('gives the same in one piece and in tiles, neighbours included', () => {
    const frame = noiseFrame();
    const warm = prepareSteps([step({ params: { model: 'lab', rows: { b: { b: 1, l: 0.1 } } } })]);
    const steps = [meanOf(3), ...warm, meanOf(2)];
    const once = samplesOf(evaluate(planWith(frame, steps), 0, whole));
    const tiled = new Uint16Array(once.length);
    for (const { column, row } of tilesIn(whole, WIDTH, HEIGHT)) {
      quantize(evaluate(planWith(frame, steps), 0, tileRect(column, row, WIDTH, HEIGHT)), tiled, WIDTH);
    }
    expect(largestDifference(tiled, once)).toBe(0);
  });

  it('gives the same from a held raster', () => {
    const frame = noiseFrame();
    const steps = [
      meanOf(1),
      ...prepareSteps([step({ params: { rows: { g: { r: 0.5, g: 0.5 } } } })]),
      meanOf(2)
    ];
    const rect = { x: 256, y: 0, width: 256, height: 256 };
    const held = evaluate(
      planWith(frame, steps.slice(0, 1)),
      0,
      neededRect(planWith(frame, steps), 1, 0, rect)
    );
    const before = held.planes[0].slice();
    const found = evaluate(planWith(frame, steps), 0, rect, { steps: 1, raster: held });
    const anew = evaluate(planWith(frame, steps), 0, rect);
    found.planes.forEach((plane, c) => expect(largestDifference(plane, anew.planes[c])).toBe(0));
    expect(largestDifference(held.planes[0], before)).toBe(0);
  });

  it('averages 2×2 for each level of the pyramid', () => {
    const { levels } = noiseFrame();
    const [full, half] = levels;
    const at = (level: typeof full, x: number, y: number): number => level.samples[(y * level.width + x) * 3];
    const mean = (at(full, 20, 30) + at(full, 21, 30) + at(full, 20, 31) + at(full, 21, 31)) / 4;
    expect(Math.abs(at(half, 10, 15) - mean)).toBeLessThanOrEqual(0.5);
    expect([half.width, half.height]).toEqual([301, 199]);
  });
});

describe('a step', () => {
  const one = (colour: number[], more: object): number[] => {
    const plan = planOf(floatFrame(1, 1, colour), [step(more)]);
    return evaluate(plan, 0, { x: 0, y: 0, width: 1, height: 1 }).planes.map((p) => p[0]);
  };
  const swap = { params: { rows: { r: { b: 1 }, b: { r: 1 } } } };
  const close = (found: number[], wanted: number[], digits = 5): void =>
    found.forEach((v, c) => expect(v).toBeCloseTo(wanted[c], digits));

  it('is faded by its opacity', () => {
    close(one([0.8, 0.5, 0.2], { ...swap, blend: { opacity: 0.25 } }), [0.65, 0.5, 0.35]);
  });

  it('keeps only the channels it is on', () => {
    close(one([0.8, 0.5, 0.2], { ...swap, on: { model: 'rgb', channels: ['b'] } }), [0.8, 0.5, 0.8]);
    const lab = converter('lab');
    const [r, g, b] = one([0.8, 0.5, 0.2], { ...swap, on: { model: 'lab', channels: ['a', 'b'] } });
    const found = lab({ mode: 'rgb', r, g, b });
    const before = lab({ mode: 'rgb', r: 0.8, g: 0.5, b: 0.2 });
    const swapped = lab({ mode: 'rgb', r: 0.2, g: 0.5, b: 0.8 });
    close([found.l, found.a, found.b], [before.l, swapped.a, swapped.b], 2);
  });

  it('acts only in its tones', () => {
    const limits = { under: [0.5, 0.5, 1, 1] };
    const brighter = { params: { rows: { r: { r: 1.1 } } }, blend: limits };
    expect(one([0.4, 0.4, 0.4], brighter)).toEqual([0.4, 0.4, 0.4].map(Math.fround));
    close(one([0.6, 0.6, 0.6], brighter), [0.66, 0.6, 0.6]);
  });

  it('is blended by its mode', () => {
    close(one([0.8, 0.5, 0.2], { ...swap, blend: { mode: 'multiply' } }), [0.16, 0.25, 0.16]);
  });

  it('does nothing while it is off', () => {
    expect(one([0.8, 0.5, 0.2], { ...swap, enabled: false })).toEqual([0.8, 0.5, 0.2].map(Math.fround));
  });

  it('carries values outside 0…1 and clamps them only on the way out', () => {
    const out = new Float32Array(3);
    const planes = [1.5, -0.25, Number.NaN].map((v) => Float32Array.of(v));
    const raster = { x: 0, y: 0, width: 1, height: 1, planes, encoding: 'coded' as const, alpha: null };
    quantize(raster, out, 1);
    expect([...out]).toEqual([1, 0, 0]);
    quantize(raster, out, 1, { keepRange: true });
    expect([...out]).toEqual([1.5, -0.25, 0]);
  });
});
