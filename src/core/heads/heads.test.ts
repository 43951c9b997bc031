import { describe, expect, it } from 'vitest';
import { parseDocument, Resolver, type KrombaDocument } from '../document';
import { evaluate } from '../path/evaluate';
import { Planner } from '../path/planner';
import { shapeOf } from '../path/shape';
import { noiseOf } from '../measure/noise';
import { randomStream } from '../random';
import type { Frame } from '../raster/frame';
import { floatFrame, largestDifference, noiseFrame, renderDocument } from '../testing';

const FRAMES = ['s', 'h', 'o'] as const;

/** A document whose first picture has this head, over three pictures of one frame each. */
function headed(
  head: object,
  steps: Partial<Record<(typeof FRAMES)[number] | 'p', object[]>> = {},
  encoding: 'coded' | 'linear' = 'linear'
): KrombaDocument {
  return parseDocument({
    ...{ kromba: 1, kind: 'document', name: 'Lantern' },
    frames: FRAMES.map((id) => ({ id, name: id, file: `${id}.tif`, encoding })),
    pictures: [
      { id: 'p', name: 'Composed', head, steps: steps.p ?? [] },
      ...FRAMES.map((id) => ({
        ...{ id, name: id.toUpperCase(), head: { kind: 'frame', frame: id } },
        steps: steps[id] ?? []
      }))
    ]
  });
}

const part = (picture: string, weight = 1, channel = 'rgb.r'): object => ({
  from: { picture },
  channel,
  weight
});
const grey = (...values: number[]): Frame => {
  const rgb = values.flatMap((v) => [v, v, v]);
  return floatFrame(values.length, 1, rgb);
};
const frames = { s: grey(0.1, 0.2), h: grey(0.3, 0.05), o: grey(0.5, 0.4) };
const pixel = (planes: readonly Float32Array[], i: number): number[] => planes.map((plane) => plane[i]);
const near = (found: readonly number[], wanted: readonly number[]): void =>
  wanted.forEach((v, i) => expect(found[i]).toBeCloseTo(v, 6));

describe('a composed head', () => {
  it('sums weighed channels of other pictures, and makes 0 of an empty list', () => {
    const head = { kind: 'compose', r: [part('s')], g: [part('h', 0.7), part('o', 0.3)], b: [] };
    const planes = renderDocument(headed(head), frames);
    // By hand: 0.7·0.3 + 0.3·0.5 = 0.36, 0.7·0.05 + 0.3·0.4 = 0.155.
    near(pixel(planes, 0), [0.1, 0.36, 0]);
    near(pixel(planes, 1), [0.2, 0.155, 0]);
  });

  it('takes its parts as their paths leave them, or where a reference says', () => {
    const double = { id: 'd', op: 'mix', params: { rows: { r: { r: 2 } } } };
    const half = { id: 'e', op: 'mix', params: { rows: { r: { r: 0.5 } } } };
    const at = (after: string): object => ({ ...part('s'), from: { picture: 's', after } });
    const head = { kind: 'compose', r: [part('s')], g: [at('d')], b: [at('head')] };
    near(pixel(renderDocument(headed(head, { s: [double, half] }), frames), 0), [0.1, 0.2, 0.1]);
  });

  it('in linear values gives RGB the luminance of l, and is l where there is no light', () => {
    const l = [part('o')];
    const head = { kind: 'compose', r: [part('s')], g: [part('h')], b: [part('o', -0.2)], l };
    const planes = renderDocument(headed(head), { ...frames, h: grey(0.3, -0.2) });
    // Y = 0.2126·0.1 + 0.7152·0.3 − 0.0722·0.1 = 0.2286: gain 0.5/0.2286.
    const gain = 0.5 / 0.2286;
    near(pixel(planes, 0), [0.1 * gain, 0.3 * gain, -0.1 * gain]);
    // Y = 0.2126·0.2 − 0.7152·0.2 − 0.0722·0.08 < 0: l itself.
    near(pixel(planes, 1), [0.4, 0.4, 0.4]);
  });

  it('in coded values gives RGB the L* of the grey, with its own a* and b*', () => {
    const head = { kind: 'compose', r: [part('s')], g: [part('h')], b: [part('o')], l: [part('o')] };
    const coded = { s: grey(1), h: grey(0), o: grey(0.5) };
    const red = { ...head, b: [part('h')] };
    const [r, g, b] = renderDocument(headed(red, {}, 'coded'), coded).map((plane) => plane[0]);
    // sRGB red is L* 54.29 a* 80.81 b* 69.89; the grey 0.5 has L* 53.39. Through f, by hand:
    const fy = (53.3889 + 16) / 116;
    const xyz = [fy + 80.8125 / 500, fy, fy - 69.8851 / 200].map((f) =>
      f > 6 / 29 ? f ** 3 : 3 * (6 / 29) ** 2 * (f - 4 / 29)
    );
    const [x, y, z] = [xyz[0] * 0.96422, xyz[1], xyz[2] * 0.82521];
    const light = 3.1338561 * x - 1.6168667 * y - 0.4906146 * z;
    expect(r).toBeCloseTo(1.055 * light ** (1 / 2.4) - 0.055, 3);
    expect(Math.max(Math.abs(g), Math.abs(b))).toBeLessThan(0.12);
  });

  it('misses what one of its parts misses, and sees the least that they see', () => {
    const holed = floatFrame(2, 1, [Number.NaN, 0.2, 0.2, 0.2, 0.2, 0.2]);
    const head = { kind: 'compose', r: [part('h')], g: [part('s', 1, 'rgb.g')], b: [] };
    const planes = renderDocument(headed(head), { ...frames, s: holed });
    expect(planes[1][0]).toBeNaN();
    near(pixel(planes, 1), [0.05, 0.2, 0]);
  });

  it('is refused by name where its parts are of different size or encoding', () => {
    const head = { kind: 'compose', r: [part('s')], g: [part('h')], b: [part('o')] };
    const wide = { ...frames, o: grey(1, 2, 3) };
    expect(() => renderDocument(headed(head), wide)).toThrow(
      'The picture “S” is 2 × 1 pixels and “O” 3 × 1: only pictures of one size make a picture together.'
    );
    const document = headed(head);
    const [first, ...rest] = document.frames;
    const mixed = { ...document, frames: [{ ...first, encoding: 'coded' as const }, ...rest] };
    expect(() => renderDocument(mixed, frames)).toThrow('“S” is coded and “H” linear');
  });
});

describe('an average', () => {
  const head = {
    ...{ kind: 'average', weighting: 'equal', match: false },
    of: [{ picture: 's' }, { picture: 'h' }, { picture: 'o' }]
  };

  it('is the mean of its pictures, over those that are there', () => {
    const planes = renderDocument(headed(head), { ...frames, o: grey(0.5, Number.NaN) });
    near(pixel(planes, 0), [0.3, 0.3, 0.3]);
    near(pixel(planes, 1), [0.125, 0.125, 0.125]);
    const all = { s: grey(Number.NaN), h: grey(Number.NaN), o: grey(Number.NaN) };
    expect(renderDocument(headed(head), all)[0][0]).toBeNaN();
  });

  it('is refused without pictures', () => {
    expect(() => headed({ ...head, of: [] })).toThrow('takes at least one picture');
  });

  /** Frames of one scene, each with a strength, a level and noise of its own. */
  const [width, height] = [400, 300];
  const random = randomStream(31);
  const scatter = (): number => {
    let sum = -6;
    for (let k = 0; k < 12; k++) sum += random();
    return sum;
  };
  const scene = Float32Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return 0.08 + 0.25 * Math.exp(-((x - 200) ** 2 + (y - 150) ** 2) / 6000) + 0.0001 * x;
  });
  const taken = (gain: number, level: number, sigma: number): Frame =>
    floatFrame(
      width,
      height,
      Array.from(scene).flatMap((v) => {
        const value = level + gain * v + sigma * scatter();
        return [value, value, value];
      })
    );
  const [NOISY, QUIET, WEAK] = [0.006, 0.002, 0.0015];
  const noisy = { s: taken(1, 0, NOISY), h: taken(1.6, 0.02, QUIET), o: taken(0.5, -0.01, WEAK) };

  it('by noise is as quiet as theory has it, within 3 %, at the level and strength of the first', () => {
    const [plane] = renderDocument(headed({ kind: 'average', of: head.of }), noisy);
    // σ as each joins: over its gain; the weights of inverse variance give 1/√Σ 1/σ².
    const joined = [NOISY, QUIET / 1.6, WEAK / 0.5];
    const theory = 1 / Math.sqrt(joined.reduce((sum, sigma) => sum + 1 / sigma ** 2, 0));
    expect(Math.abs(noiseOf(plane, width, height) / theory - 1)).toBeLessThan(0.03);
    const rest = plane.reduce((sum, v, i) => sum + v - scene[i], 0) / plane.length;
    expect(Math.abs(rest)).toBeLessThan(0.2 * NOISY);
    const bright = plane[150 * width + 200] - plane[10 * width + 10];
    expect(bright).toBeCloseTo(scene[150 * width + 200] - scene[10 * width + 10], 2);
  });

  it('of equal weights is noisier than that, and without matching a plain mean', () => {
    const quiet = (more: object): number =>
      noiseOf(renderDocument(headed({ kind: 'average', of: head.of, ...more }), noisy)[0], width, height);
    expect(quiet({ weighting: 'equal' })).toBeGreaterThan(1.3 * quiet({}));
    const [plain] = renderDocument(headed(head), noisy);
    const sample = (frame: Frame): number => frame.levels[0].samples[3 * 5000];
    expect(plain[5000]).toBeCloseTo((sample(noisy.s) + sample(noisy.h) + sample(noisy.o)) / 3, 6);
  });

  it('of pictures without noise weighs them alike', () => {
    const even = { s: grey(0.1, 0.2), h: grey(0.3, 0.4), o: grey(0.2, 0.6) };
    near(pixel(renderDocument(headed({ ...head, weighting: 'noise' }), even), 0), [0.2, 0.2, 0.2]);
  });
});

describe('a path over a head of several pictures', () => {
  const noise = {
    s: noiseFrame(130, 90, false, 'u16', 1),
    h: noiseFrame(130, 90, false, 'u16', 2),
    o: noiseFrame(130, 90, false, 'u16', 3)
  };
  const head = { kind: 'compose', r: [part('s')], g: [part('h')], b: [part('o')], l: [part('h', 0.5)] };
  const steps = {
    h: [{ id: 'b', op: 'blur', params: { radius: 3 } }],
    p: [
      { id: 't', op: 'straighten', params: { angle: 11 } },
      { id: 'x', op: 'sharpen', params: { radius: 2 } }
    ]
  };

  it('is the same in one piece and in parts, turned and with steps that look around', () => {
    const document = headed(head, steps);
    const ids = Object.fromEntries(FRAMES.map((id) => [id, id]));
    const source = new Resolver(document, ids).picture({ picture: 'p' })!;
    const plan = new Planner((id) => noise[id as 's']).plan(source);
    const { width, height } = plan.geometry;
    const whole = evaluate(plan, 0, { x: 0, y: 0, width, height });
    const at = { x: 31, y: 17, width: 50, height: 40 };
    const partly = evaluate(plan, 0, at);
    partly.planes.forEach((plane, c) => {
      const wanted = Float32Array.from(
        { length: at.width * at.height },
        (_, i) => whole.planes[c][(at.y + Math.floor(i / at.width)) * width + at.x + (i % at.width)]
      );
      expect(largestDifference(plane, wanted)).toBe(0);
    });
    expect(shapeOf(source, (id) => noise[id as 's'])).toMatchObject({
      ...{ width, height, encoding: 'linear', alpha: false },
      head: { width: 130, height: 90 }
    });
  });

  it('can be taken from by a step of another picture, and goes out of date with its parts', () => {
    const from = { id: 'm', op: 'lay', params: { from: { picture: 'p' } } };
    const laid = headed(head, { s: [] });
    const taking = { ...laid, pictures: laid.pictures.map((p) => (p.id === 'o' ? { ...p } : p)) };
    const keyOf = (document: KrombaDocument): string =>
      new Resolver(document, { s: 's', h: 'h', o: 'o' }).head(document.pictures[0]).key;
    const other = headed(head, { h: [{ id: 'b', op: 'blur', params: { radius: 4 } }] });
    expect(keyOf(taking)).toBe(keyOf(headed(head)));
    expect(keyOf(other)).not.toBe(keyOf(taking));
    expect(() => headed(head, { s: [from] })).toThrow('in a circle');
  });
});
