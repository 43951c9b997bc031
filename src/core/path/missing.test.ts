import { describe, expect, it } from 'vitest';
import { parseDocument, type Step } from '../document';
import { floatFrame, planOf, render, renderDocument, stepOf } from '../testing';
import { randomStream } from '../random';
import { inArena } from '../kernels/arena';
import { evaluate, withEvaluated } from './evaluate';
import { measurePicture } from './measure';
import { quantize } from './quantize';
import { screenPixels } from './view';
import type { Frame } from '../raster/frame';

const WIDTH = 96;
const HEIGHT = 64;
const N = WIDTH * HEIGHT;

/** Grey samples as a frame, some of them missing. */
const greyFrame = (value: (i: number) => number): Frame =>
  floatFrame(
    WIDTH,
    HEIGHT,
    Array.from({ length: 3 * N }, (_, i) => value(Math.floor(i / 3)))
  );

/** A hole, a line and single samples, the edge among them. */
const gone = (i: number): boolean => {
  const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
  return (x > 30 && x < 52 && y > 20 && y < 44) || y === 10 || i % 97 === 0 || x === 0;
};

const neighbours: [string, Step][] = [
  ['blur', stepOf('blur', { radius: 3 })],
  ['a wide blur', stepOf('blur', { radius: 20 })],
  ['sharpen', stepOf('sharpen', { radius: 2, amount: 200 })],
  ['smooth', stepOf('smooth', { radius: 6, tolerance: 0.3 })],
  ['local contrast', stepOf('local', { radius: 12, amount: 200 })],
  ['detail', stepOf('detail', { radius: 16, amount: 150 })],
  ['smooth on a and b', stepOf('smooth', { radius: 6 }, { on: { model: 'lab', channels: ['a', 'b'] } })]
];

describe('missing samples', () => {
  it.each(neighbours)('take no part in %s: an even picture stays even beside them', (_, step) => {
    const [plane] = render(
      greyFrame((i) => (gone(i) ? Number.NaN : 0.5)),
      [step]
    );
    plane.forEach((v, i) => {
      if (gone(i)) expect(v).toBeNaN();
      else expect(Math.abs(v - 0.5), `at ${i}`).toBeLessThan(2e-6);
    });
  });

  it.each(neighbours)('give %s the same result however the picture is cut', (_, step) => {
    const random = randomStream(5);
    const values = Array.from({ length: N }, () => random());
    const plan = planOf(
      greyFrame((i) => (gone(i) ? Number.NaN : values[i])),
      [step]
    );
    const whole = evaluate(plan, 0, { x: 0, y: 0, width: WIDTH, height: HEIGHT }).planes[0];
    const part = evaluate(plan, 0, { x: 25, y: 15, width: 30, height: 20 }).planes[0];
    part.forEach((v, i) => {
      const wanted = whole[(15 + Math.floor(i / 30)) * WIDTH + 25 + (i % 30)];
      if (Number.isNaN(wanted)) expect(v).toBeNaN();
      else expect(Math.abs(v - wanted)).toBeLessThan(1e-6);
    });
  });

  it('leave a blur the mean of the others, by its definition', () => {
    const random = randomStream(6);
    const values = Array.from({ length: N }, () => random());
    const sigma = 2;
    const [plane] = render(
      greyFrame((i) => (gone(i) ? Number.NaN : values[i])),
      [stepOf('blur', { radius: sigma })]
    );
    for (const [x, y] of [
      [29, 30],
      [5, 9],
      [60, 40],
      [90, 60]
    ]) {
      let [sum, weights] = [0, 0];
      for (let v = y - 8; v <= y + 8; v++) {
        for (let u = x - 8; u <= x + 8; u++) {
          // Beyond the picture its edge goes on.
          const at = Math.min(HEIGHT - 1, Math.max(0, v)) * WIDTH + Math.min(WIDTH - 1, Math.max(0, u));
          if (gone(at)) continue;
          const w = Math.exp(-((u - x) ** 2 + (v - y) ** 2) / (2 * sigma ** 2));
          sum += w * values[at];
          weights += w;
        }
      }
      expect(plane[y * WIDTH + x]).toBeCloseTo(sum / weights, 4);
    }
  });

  it('stay missing where a picture is turned, and spread no black', () => {
    const frame = greyFrame((i) => (gone(i) ? Number.NaN : 0.5));
    const [plane] = render(frame, [stepOf('straighten', { angle: 7 })]);
    const missing = plane.filter((v) => Number.isNaN(v)).length;
    const there = plane.filter((v) => !Number.isNaN(v));
    there.forEach((v) => expect(Math.abs(v - 0.5)).toBeLessThan(1e-6));
    // As large a part as of the frame, but for what the crop took away.
    expect(missing / plane.length).toBeGreaterThan(0.08);
    expect(missing / plane.length).toBeLessThan(0.2);
  });

  it.each([
    ['grown', { grow: 5 }],
    ['shrunk', { grow: -5 }],
    ['blurred', { blur: 6 }]
  ])('do not darken a mask that is %s', (_, more) => {
    const where = { terms: [{ source: { kind: 'channel', channel: 'rgb.r' } }], ...more };
    const [plane] = render(
      greyFrame((i) => (gone(i) ? Number.NaN : 0.75)),
      [stepOf('invert', {}, { where })]
    );
    // By hand: 0.75 + 0.75·(0.25 − 0.75).
    plane.forEach((v, i) => gone(i) || expect(Math.abs(v - 0.375)).toBeLessThan(1e-5));
  });
});

describe('a picture beside a step', () => {
  const first = greyFrame(() => 0.3);
  const other = greyFrame((i) => (gone(i) ? Number.NaN : 0.9));

  /** The first picture after a step that takes from the other. */
  function beside(step: object, of: Frame = other): Float32Array {
    const document = parseDocument({
      ...{ kromba: 1, kind: 'document', name: 'x' },
      frames: ['f', 'g'].map((id) => ({ id, name: id, file: `${id}.png` })),
      pictures: [
        { id: 'p', name: 'p', head: { kind: 'frame', frame: 'f' }, steps: [{ id: 's', ...step }] },
        { id: 'q', name: 'q', head: { kind: 'frame', frame: 'g' } }
      ]
    });
    return renderDocument(document, { f: first, g: of })[0];
  }

  const from = { picture: 'q' };
  const merge = { from, side: 'dark', reach: { grey: 0.2 } };
  // By hand: m = (1 − lum)^(1 + 7·0.2), lum of the grey being 0.3.
  const merged = 0.3 + (1 - 0.3) ** 2.4 * (0.9 - 0.3);

  it.each([
    ['merge', { op: 'merge', params: merge }, merged],
    [
      'merge by multiply',
      { op: 'merge', params: merge, blend: { mode: 'multiply' } },
      0.3 + (1 - 0.3) ** 2.4 * (0.27 - 0.3)
    ],
    ['a stack', { op: 'channel', params: { stack: [{ from, channel: 'rgb.r' }] } }, 0.9],
    [
      'a mask',
      {
        op: 'invert',
        params: {},
        where: { terms: [{ source: { kind: 'channel', channel: 'rgb.r', of: from } }] }
      },
      0.3 + 0.9 * (0.7 - 0.3)
    ]
  ] as [string, object, number][])('has no effect in %s where it is missing', (name, step, wanted) => {
    const found = beside(step);
    // A mask whose only term has no effect is 1 everywhere.
    const without = name === 'a mask' ? 0.7 : 0.3;
    found.forEach((v, i) => expect(Math.abs(v - (gone(i) ? without : wanted)), `at ${i}`).toBeLessThan(2e-5));
  });

  it('has no effect where it does not reach', () => {
    const found = beside(
      { op: 'merge', params: { ...merge, shift: [20.5, -7.25] } },
      greyFrame(() => 0.9)
    );
    const at = (x: number, y: number): number => found[y * WIDTH + x];
    const reached = found.filter((v) => Math.abs(v - merged) < 2e-5).length;
    const left = found.filter((v) => Math.abs(v - 0.3) < 2e-6).length;
    expect(reached + left).toBe(N);
    expect([at(2, 30), at(90, 30)].sort()[0]).toBeCloseTo(0.3, 6);
    expect(at(48, 30)).toBeCloseTo(merged, 4);
    // 20.5 columns and 7.25 rows, to half a sample.
    expect(Math.abs(left - (20.5 * HEIGHT + 7.25 * (WIDTH - 20.5)))).toBeLessThanOrEqual(WIDTH + HEIGHT);
  });
});

describe('alpha', () => {
  it('stays within 0…1 where a picture is turned', () => {
    const samples = Float32Array.from({ length: 4 * N }, (_, i) =>
      i % 4 < 3 ? 0.5 : Math.floor(i / 64) % 2
    );
    const frame = { ...greyFrame(() => 0), alpha: true };
    const level = { width: WIDTH, height: HEIGHT, samples };
    const plan = planOf({ ...frame, levels: [level] }, [stepOf('straighten', { angle: 12 })]);
    const { width, height } = plan.geometry;
    const alpha = evaluate(plan, 0, { x: 0, y: 0, width, height }).alpha!;
    expect(Math.max(...alpha)).toBe(1);
    expect(Math.min(...alpha)).toBe(0);
  });
});

describe('missing samples of what is seen, written and counted, where the kernels run', () => {
  /** sRGB 128 of 255 as light (IEC 61966-2-1, by hand). */
  const HALF = 0.2158605;
  const light = greyFrame((i) => (gone(i) ? Number.NaN : HALF));
  const all = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  const plans = [
    ['coded', planOf(greyFrame((i) => (gone(i) ? Number.NaN : 128 / 255)))],
    ['linear', planOf(light, [], [], 'linear')],
    ['linear in its file, coded here', planOf({ ...light, encoding: 'linear' })]
  ] as const;

  it.each(plans)(
    'of a picture that is %s: black on the screen, ink too, and in no count of clipping',
    (_, plan) => {
      withEvaluated(plan, 0, all, null, (raster) => {
        expect(inArena(raster.planes)).toBe(true);
        for (const [view, there] of [
          ['colour', 128],
          [{ channel: 'lum' }, 128],
          // L* of sRGB 128 is 53.59, of 255 136.65; its ink is black alone, 49.8 %, and no cyan.
          [{ channel: 'lab.l' }, 137],
          [{ channel: 'cmyk.k' }, 128],
          [{ channel: 'cmyk.c' }, 255]
        ] as const) {
          const pixels = screenPixels(raster, view);
          for (let i = 0; i < N; i++) {
            if (pixels[4 * i] !== (gone(i) ? 0 : there))
              expect([view, i, pixels[4 * i]]).toEqual([view, i, there]);
          }
        }
        const hatched = screenPixels(raster, { clipped: ['cmyk.k', 'hsv.v'], ends: 'both' });
        expect(hatched[4 * 97]).toBe(0);
      });
    }
  );

  it.each(plans)('of a picture that is %s: 0 in a file of 8, 16 and 32 bit', (_, plan) => {
    withEvaluated(plan, 0, all, null, (raster) => {
      for (const [samples, there] of [
        [new Uint8Array(3 * N), 128],
        [new Uint16Array(3 * N), 32896],
        [new Float32Array(3 * N), 128 / 255]
      ] as const) {
        quantize(raster, samples, WIDTH);
        const off = samples.findIndex(
          (v, k) => Math.abs(v - (gone(Math.floor(k / 3)) ? 0 : there)) > (there > 1 ? 0.5 : 1e-6)
        );
        expect(off).toBe(-1);
      }
    });
  });

  it.each(plans)('of a picture that is %s: in no histogram', (_, plan) => {
    const present = Array.from({ length: N }, (_, i) => !gone(i)).filter(Boolean).length;
    const { histograms } = measurePicture(plan, [
      'rgb.r',
      'lum',
      'lab.l',
      'cmyk.k',
      'cmyk.c',
      'hsv.s',
      'hsv.h',
      'lch.c'
    ]);
    for (const { counts } of histograms) expect(counts.reduce((a, b) => a + b, 0)).toBe(present);
  });
});
