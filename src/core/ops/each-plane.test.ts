import { describe, expect, it } from 'vitest';
import { evaluate } from '../path/evaluate';
import { floatFrame, planOf, stepOf } from '../testing';
import { randomStream } from '../random';
import type { Frame } from '../raster/frame';
import type { Planes } from '../colour';
import { eachPlane } from './each-plane';

const n = 6;
const plane = (...values: number[]): Float32Array =>
  Float32Array.from({ length: n }, (_, i) => values[i] ?? 0);
const patch = (planes: Planes): { planes: Planes; width: number; height: number } => ({
  planes,
  width: 3,
  height: 2
});

describe('planes of a patch', () => {
  const double = (made: number[]) => (from: Float32Array, to: Float32Array, c: number) => {
    made.push(c);
    from.forEach((v, i) => (to[i] = 2 * v));
  };

  it('are each made, those of the same samples once', () => {
    const out = [plane(), plane(), plane()] as const as unknown as Planes;
    const made: number[] = [];
    eachPlane(patch([plane(1, NaN, 3), plane(1, 2, 3), plane(1, NaN, 3)]), out, double(made));
    expect(made).toEqual([0, 1]);
    expect(out.map((one) => [...one.subarray(0, 3)])).toEqual([
      [2, NaN, 6],
      [2, 4, 6],
      [2, NaN, 6]
    ]);
  });

  it('are made by themselves where they are made by other numbers', () => {
    const out = [plane(), plane(), plane()] as const as unknown as Planes;
    const made: number[] = [];
    const same = plane(1, 2);
    eachPlane(patch([same, same.slice(), same.slice()]), out, double(made), (c, other) => c + other !== 1);
    expect(made).toEqual([0, 1]);
  });

  it('may be written over: what they came as counts', () => {
    const planes: Planes = [plane(1), plane(1), plane(2)];
    const made: number[] = [];
    eachPlane(patch(planes), planes, double(made));
    expect(made).toEqual([0, 2]);
    expect(planes.map((one) => one[0])).toEqual([2, 2, 4]);
  });
});

/** A soft picture with noise; its blue is another where it is not grey. */
function frameOf(grey: boolean): Frame {
  const [width, height] = [150, 120];
  const random = randomStream(3);
  const samples = Array.from({ length: width * height }, (_, i) => {
    const v = 0.4 + 0.2 * Math.sin((i % width) / 9) + 0.06 * (random() - 0.5);
    return [v, v, grey ? v : 0.9 * v];
  });
  return floatFrame(width, height, samples.flat());
}

it.each([
  ['blur', { radius: 3 }],
  ['smooth', { radius: 6 }],
  ['sharpen', { radius: 2, amount: 100 }],
  ['local', { radius: 10, amount: 60 }],
  ['detail', { radius: 16, amount: 60 }],
  [
    'scales',
    {
      layers: [
        { gain: 2, threshold: 1 },
        { gain: 1.5, threshold: 0 }
      ]
    }
  ],
  ['denoise', {}],
  ['deconvolve', { psf: { kind: 'gauss', fwhm: 2 }, iterations: 3 }]
])('%s makes of the channels of a grey picture what it makes of each', (op, params) => {
  const rect = { x: 10, y: 5, width: 100, height: 90 };
  const [grey, other] = [true, false].map((is) =>
    evaluate(planOf(frameOf(is), [stepOf(op, params)]), 0, rect)
  );
  const same = (a: Float32Array, b: Float32Array): boolean => a.every((v, i) => v === b[i]);
  const [r, g, b] = grey.planes;
  expect(same(r, other.planes[0])).toBe(true);
  expect(same(r, g) && same(g, b)).toBe(true);
  expect(same(b, other.planes[2])).toBe(false);
});
