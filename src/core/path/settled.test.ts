import { describe, expect, it } from 'vitest';
import { referenceKey, type SourceStep } from '../document';
import { quantiles } from '../measure/quantile';
import type { Frame } from '../raster/frame';
import type { Raster } from '../raster/raster';
import { floatFrame, noiseFrame, pictureOf, planOf, softFrame, stepOf } from '../testing';
import { alone, withEvaluated } from './evaluate';
import { copied } from '../raster/raster';
import { inBands } from './analysis';
import { planSize, type Plan } from './plan';
import { Planner } from './planner';
import { keptAsItIs, quantize } from './quantize';
import { settledFrame, settledSamples, unsettled } from './settled';

const whole = (plan: Plan, level = 0, settled?: Map<string, Frame>): Raster => {
  const { width, height } = planSize(plan, level);
  return withEvaluated(plan, level, { x: 0, y: 0, width, height }, null, copied, alone(undefined, settled));
};

/** What is asked for until nothing is, computed as workers do it. */
function settle(planner: Planner, plan: Plan): Map<string, Frame> {
  const settled = new Map<string, Frame>();
  for (let ask = unsettled(plan, settled); ask; ask = unsettled(plan, settled)) {
    const { head, steps, pins, common, beyond } = ask;
    const asked = planner.plan({ head, steps, pins }, { common, beyond });
    const samples = settledSamples(asked);
    inBands(asked, 0, (band) => quantize(band, samples, common.width, keptAsItIs(band)));
    settled.set(ask.key, settledFrame(asked, samples));
  }
  return settled;
}

/** 2×2 means of a plane of even sides. */
function halved(plane: Float32Array, width: number): number[] {
  const out: number[] = [];
  for (let y = 0; y < plane.length / width; y += 2)
    for (let x = 0; x < width; x += 2) {
      const i = y * width + x;
      out.push((plane[i] + plane[i + 1] + plane[i + width] + plane[i + width + 1]) / 4);
    }
  return out;
}

const off = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  Array.from(a).reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0);

const local = (more: object = {}): SourceStep => stepOf('local', { radius: 80, amount: 200 }, more);
const half = { rows: { r: { r: 0.5 }, g: { g: 0.5 }, b: { b: 0.5 } } };
const masked = {
  where: { terms: [{ source: { kind: 'channel', channel: 'lum' } }], blur: 3 }
};

describe('a result over the whole picture', () => {
  it.each([
    ['alone', [local()]],
    ['between masked steps', [stepOf('invert', {}, masked), local(masked), stepOf('mix', half)]],
    [
      'in a group in a group',
      [stepOf('group', { steps: [stepOf('group', { steps: [local()] }), stepOf('invert')] })]
    ]
  ])('is what a smaller level shows the means of, %s', (_, steps) => {
    const frame = softFrame(256, 192);
    const planner = new Planner(() => frame);
    const plan = planner.plan(pictureOf(steps));
    const settled = settle(planner, plan);
    expect(settled.size).toBe(1);
    // At full size nothing changes.
    const full = whole(plan);
    expect(off(whole(plan, 0, settled).planes[1], full.planes[1])).toBe(0);
    // Where only what can be averaged follows (a mix of halves can), the smaller level is the mean of the larger.
    const small = whole(plan, 1, settled);
    expect(off(small.planes[1], halved(full.planes[1], 256))).toBeLessThan(1e-6);
    expect(off(whole(plan, 1).planes[1], small.planes[1])).toBeGreaterThan(1e-5);
  });

  it('is looked at by statistics: auto levels find the ends of what full size comes to', () => {
    const frame = noiseFrame(1400, 1200, false, 'f32');
    const before = planOf(frame, [local()]);
    const small = halved(whole(before).planes[0], 1400);
    const wanted = quantiles(Float32Array.from(small), small.length, [0.01, 0.99]);
    const plan = planOf(frame, [local(), stepOf('levels', { auto: { clip: 1 } })]);
    const { op, coefficients } = plan.steps[1];
    const { levels } = op.solved!(coefficients) as { levels: { black: number; white: number }[] };
    expect([levels[0].black, levels[0].white]).toEqual(wanted.map((v) => expect.closeTo(v, 6)));
  });

  it('keeps what is missing missing, alpha as it was, and a linear picture linear', () => {
    const rgb = Float32Array.from({ length: 3 * 160 * 128 }, (_, i) =>
      Math.floor(i / 3) % 160 < 40 ? Number.NaN : 0.2 + (i % 97) / 500
    );
    const frame = floatFrame(160, 128, rgb);
    const planner = new Planner(() => frame);
    const plan = planner.plan({ ...pictureOf([local()]), head: planOf(frame, [], [], 'linear').source.head });
    const settled = settle(planner, plan);
    const small = whole(plan, 1, settled);
    expect(small.encoding).toBe('linear');
    expect([small.planes[0][0], small.planes[0][19]]).toEqual([Number.NaN, Number.NaN]);
    expect(small.planes[0][20]).toBeCloseTo(whole(plan).planes[0][40], 1);

    const clear = noiseFrame(64, 64, true);
    const clearPlanner = new Planner(() => clear);
    const over = clearPlanner.plan(pictureOf([local()]));
    expect(off(whole(over, 0, settle(clearPlanner, over)).alpha!, whole(over).alpha!)).toBe(0);
  });

  it('is another one as soon as anything before it is another, and none is kept of what is too large', () => {
    const planner = new Planner(() => softFrame(128, 128));
    const keyOf = (steps: SourceStep[]): string | undefined =>
      unsettled(planner.plan(pictureOf(steps)), new Map())?.key;
    const step = local();
    const first = keyOf([stepOf('mix', half), step]);
    expect(keyOf([stepOf('mix', half), step, stepOf('invert')])).toBe(first);
    expect(keyOf([stepOf('invert'), step])).not.toBe(first);
    expect(keyOf([{ ...step, enabled: false }])).toBeUndefined();
    expect(keyOf([stepOf('local', { radius: 20 })])).toBeUndefined();
    // 50 megapixels of three floats and their smaller levels are 800 MB.
    const plan = planner.plan(pictureOf([step]));
    const large = { ...plan, geometry: { ...plan.geometry, width: 8000, height: 6250 } };
    expect(unsettled(large, new Map())).toBeNull();
  });

  it('is asked for of a picture beside, before the picture’s own', () => {
    const frame = softFrame(128, 128);
    const planner = new Planner(() => frame);
    const other = { ...pictureOf([local()]), name: 'other' };
    const reference = { picture: 'q' };
    const lay = { ...stepOf('lay', { from: reference }), key: 'lay' } as SourceStep;
    const step: SourceStep = {
      ...lay,
      beside: { pictures: { [referenceKey(reference)]: other }, masks: {}, tables: {} }
    };
    const plan = planner.plan(pictureOf([step, local()]));
    expect(settle(planner, plan).size).toBe(2);
    expect(unsettled(plan, new Map())!.steps).toHaveLength(1);
  });
});
