import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { modelOf } from '../colour';
import { actsOn } from '../document';
import {
  largestDifference,
  noiseFrame,
  randomColours,
  render,
  softFrame,
  stepOf,
  stepped,
  valuesIn
} from '../testing';
import { ops } from '.';

const colours = randomColours(60, 23);
const lch = converter('lch');

/** Parameters with which an op leaves the picture alone. */
const nothing: Record<string, object> = {
  mix: {},
  balance: {},
  levels: {},
  curves: {},
  colour: {},
  weigh: {},
  blur: { radius: 0 },
  smooth: { radius: 0 },
  sharpen: { amount: 0 },
  local: { amount: 0 },
  detail: { amount: 0 },
  straighten: {}
};

describe('a step that is set to nothing', () => {
  it.each(Object.entries(nothing))('%s leaves every sample alone, within 1e-5', (op, params) => {
    const frame = softFrame(70, 50);
    const [before, after] = [render(frame, []), render(frame, [stepOf(op, params)])];
    after.forEach((plane, c) => expect(largestDifference(plane, before[c])).toBeLessThan(1e-5));
  });
});

describe('On', () => {
  const planeOps = ops
    .filter((op) => op.kind === 'plane' && !['levels', 'curves'].includes(op.id))
    .map((op) => op.id);

  it.each(planeOps)('%s on L leaves a and b, on a and b leaves L', (op) => {
    const frame = softFrame(40, 30);
    const lab = (planes: readonly Float32Array[]): Float32Array[] => {
      const out = [0, 1, 2].map(() => new Float32Array(1200));
      modelOf('lab').kernels.coded.fromRgb(planes, out, 1200);
      return out;
    };
    const before = lab(render(frame, []));
    const light = lab(render(frame, [stepOf(op, {}, { on: { model: 'lab', channels: ['l'] } })]));
    const colour = lab(render(frame, [stepOf(op, {}, { on: { model: 'lab', channels: ['a', 'b'] } })]));
    for (const c of [1, 2]) expect(largestDifference(light[c], before[c])).toBeLessThan(1e-4);
    expect(largestDifference(colour[0], before[0])).toBeLessThan(1e-4);
  });

  it('all channels of a model is what a step acts on when it names none', () => {
    for (const op of ops) {
      const step = stepOf(op.id);
      const { model, channels } = actsOn(step);
      expect(channels).toEqual(modelOf(model).channels.map((c) => c.letter));
    }
  });

  it.each(['rgb', 'lab', 'hsv'] as const)('keeps the channels of %s that are not listed', (id) => {
    const { channels } = modelOf(id);
    const kept = channels.slice(1).map((c) => c.letter);
    const last = kept.at(-1)!;
    const found = stepped(colours, 'invert', {}, { on: { model: id, channels: [channels[0].letter] } });
    found.forEach((rgb, i) => {
      // Inks are read from clamped colours, and hues say nothing of near-greys: those are told below.
      if (Math.min(...rgb) < 0.02 || Math.max(...rgb) > 0.98) return;
      const at = channels.findIndex((c) => c.letter === last);
      const [was, is] = [valuesIn(id, colours[i])[at], valuesIn(id, rgb)[at]];
      expect(Math.abs(was - is)).toBeLessThan(1e-4);
    });
  });

  it('keeps magenta, yellow and black ink where cyan is turned over, by the formula', () => {
    const found = stepped(colours, 'invert', {}, { on: { model: 'cmyk', channels: ['c'] } });
    colours.forEach(([r, g, b], i) => {
      const k = Math.min(1 - r, 1 - g, 1 - b);
      const cyan = (1 - r - k) / (1 - k);
      // R = (1 − C)(1 − K), and the others stand on the inks that stay.
      const wanted = [cyan * (1 - k), g, b];
      wanted.forEach((v, c) => expect(Math.abs(found[i][c] - v)).toBeLessThan(1e-5));
    });
  });

  it('keeps lightness and hue where the chroma of LCh is turned over, as another library reads it', () => {
    const found = stepped(colours, 'invert', {}, { on: { model: 'lch', channels: ['c'] } });
    let compared = 0;
    colours.forEach(([r, g, b], i) => {
      const before = lch({ mode: 'rgb', r, g, b });
      const [x, y, z] = found[i];
      const after = lch({ mode: 'rgb', r: x, g: y, b: z });
      // The hue of a near-grey is chance.
      if (before.c < 5 || after.c < 5) return;
      compared++;
      expect(Math.abs(after.l - before.l)).toBeLessThan(0.02);
      expect(Math.abs(after.c - (128 - before.c))).toBeLessThan(0.05);
      expect(Math.abs(((after.h! - before.h! + 540) % 360) - 180)).toBeLessThan(0.1);
    });
    expect(compared).toBeGreaterThan(40);
  });
});

describe('Blend', () => {
  it('at 0 % leaves the picture alone, and half way is half way, for every op that can be blended', () => {
    const frame = noiseFrame(24, 20, false, 'f32');
    const before = render(frame, []);
    for (const { id, kind } of ops) {
      if (kind === 'geometry') continue;
      const at = (opacity: number): readonly Float32Array[] =>
        render(frame, [stepOf(id, {}, { blend: { opacity } })]);
      const [none, half, full] = [at(0), at(0.5), at(1)];
      before.forEach((plane, c) => {
        expect(largestDifference(none[c], plane), id).toBe(0);
        const middle = plane.map((v, i) => (v + full[c][i]) / 2);
        expect(largestDifference(half[c], middle), id).toBeLessThan(1e-5);
      });
    }
  });

  it('by lighten never darkens, by darken never lightens', () => {
    const frame = noiseFrame(24, 20, false, 'f32');
    const before = render(frame, []);
    for (const id of ['invert', 'equalize', 'tint', 'local', 'blur']) {
      const lighter = render(frame, [stepOf(id, {}, { blend: { mode: 'lighten' } })]);
      const darker = render(frame, [stepOf(id, {}, { blend: { mode: 'darken' } })]);
      before.forEach((plane, c) => {
        expect(plane.every((v, i) => lighter[c][i] >= v - 1e-6)).toBe(true);
        expect(plane.every((v, i) => darker[c][i] <= v + 1e-6)).toBe(true);
      });
    }
  });

  it('only within its limits: tones outside stay to the last bit', () => {
    const greys = Array.from({ length: 101 }, (_, i) => Array<number>(3).fill(i / 100));
    const found = stepped(greys, 'invert', {}, { blend: { under: [0.3, 0.3, 0.6, 0.6] } });
    greys.forEach(([v], i) => {
      if (v < 0.295 || v > 0.605) expect(found[i][0]).toBe(Math.fround(v));
      else if (v > 0.305 && v < 0.595) expect(found[i][0]).toBeCloseTo(1 - v, 5);
    });
  });

  it('rises and falls along the trapezoid', () => {
    // By hand: at tone 0.25, half way up from 0.2 to 0.3; at 0.7, a quarter left of the way down from 0.6 to 0.7333.
    const found = stepped(
      [Array<number>(3).fill(0.25), Array<number>(3).fill(0.7)],
      'invert',
      {},
      {
        blend: { under: [0.2, 0.3, 0.6, 0.7333333] }
      }
    );
    expect(found[0][0]).toBeCloseTo(0.25 + 0.5 * 0.5, 3);
    expect(found[1][0]).toBeCloseTo(0.7 - 0.25 * 0.4, 3);
  });
});
