import { describe, expect, it } from 'vitest';
import type { Encoding } from '../colour';
import { DocumentError } from '../document';
import { ops } from '../ops';
import { randomStream } from '../random';
import { buildPyramid, sharedSamples, type Frame } from '../raster/frame';
import type { Raster } from '../raster/raster';
import { planOf, stepOf } from '../testing';
import { anyParams } from '../testing-params';
import { evaluate } from './evaluate';

/** Float RGB with alpha; `missing` says which of its pixels are not there. */
function oddFrame(width: number, height: number, missing: (pixel: number) => boolean): Frame {
  const random = randomStream(width * 31 + height);
  const samples = sharedSamples('f32', width * height * 4);
  for (let i = 0; i < samples.length; i++)
    samples[i] = i % 4 < 3 && missing(Math.floor(i / 4)) ? Number.NaN : random();
  return {
    ...{ width, height, layout: 'rgb', alpha: true, sampleType: 'f32', encoding: 'coded' },
    levels: buildPyramid({ width, height, samples }, 4),
    missing: Array.from(samples).filter(Number.isNaN).length
  } as Frame;
}

const SIZES = [
  [1, 1],
  [1, 9],
  [7, 1],
  [3, 2],
  [33, 2]
] as const;
const MISSING: readonly [string, (pixel: number) => boolean][] = [
  ['nothing', () => false],
  ['the second pixel', (pixel) => pixel === 1],
  ['all', () => true]
];
const TRIES = 2;
/** What is put into a group. */
const INSIDE = [
  { id: 'a', op: 'blur', params: { radius: 3 } },
  { id: 'b', op: 'invert', params: {} }
];

/** What an op makes of a frame; null where it is refused in words. */
function made(frame: Frame, id: string, params: object, encoding: Encoding): Raster | null {
  try {
    const plan = planOf(frame, [stepOf(id, params)], [], encoding);
    return evaluate(plan, 0, { x: 0, y: 0, width: plan.geometry.width, height: plan.geometry.height });
  } catch (error) {
    if (error instanceof DocumentError) return null;
    throw error;
  }
}

describe.each(ops.map((op) => [op.id, op] as const))('%s', (id, op) => {
  it.each(SIZES)(
    'of %d × %d pixels keeps alpha, what is missing and nothing else missing',
    (width, height) => {
      const random = randomStream(5);
      for (const [name, missing] of MISSING) {
        const frame = oddFrame(width, height, missing);
        for (const encoding of ['coded', 'linear'] as const)
          for (let i = 0; i < TRIES; i++) {
            const params =
              op.kind === 'path' ? { steps: INSIDE } : anyParams(op, { random, letters: ['r', 'g', 'b'] });
            const raster = made(frame, id, params, encoding);
            if (!raster) continue;
            const told = `${name} missing, ${encoding}, ${JSON.stringify(params)}`;
            expect(raster.planes[0].length, told).toBeGreaterThan(0);
            if (op.kind === 'geometry') continue;
            const { samples } = frame.levels[0];
            for (let pixel = 0; pixel < width * height; pixel++) {
              for (const plane of raster.planes)
                expect(Number.isNaN(plane[pixel]), told).toBe(missing(pixel));
              expect(raster.alpha![pixel], told).toBe(samples[4 * pixel + 3]);
            }
          }
      }
    }
  );
});
