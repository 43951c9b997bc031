import { converter } from 'culori';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { paperProfile, paperValues } from '../../e2e/paper-profile';
import { planOf } from '../core/testing';
import { headOf } from '../core/heads';
import { decodeImage } from '../core/files';
import { ready } from '../core/files/own-profile';
import { withEvaluated } from '../core/path/evaluate';
import { quantize } from '../core/path/quantize';
import { buildPyramid, sharedSamples, type Frame } from '../core/raster/frame';
import { randomStream } from '../core/random';
import type { OwnSpace } from '../core/colour/own';
import { exportPicture, type ExportSettings } from './export';
import { nodePool } from './node/pool';
import { provideNodeWasm } from './node/wasm';
import { outsideOfFile, outsideSeen } from './outside';
import type { Pool } from './pool';
import { inOwnProfile, renderSettings } from './settings';

const [WIDTH, HEIGHT] = [1100, 120];
const random = randomStream(23);
/** Greys in the upper half. */
const samples = sharedSamples('u16', WIDTH * HEIGHT * 3);
for (let i = 0; i < samples.length; i++)
  samples[i] = i < samples.length / 2 && i % 3 > 0 ? samples[i - 1] : 65536 * random();
const shape = { width: WIDTH, height: HEIGHT, alpha: false, mayMiss: false, encoding: 'coded' as const };
const frame: Frame = {
  ...{ ...shape, layout: 'rgb', sampleType: 'u16', missing: 0, samples },
  levels: buildPyramid({ width: WIDTH, height: HEIGHT, samples }, 3)
} as Frame;
const picture = { head: headOf('f'), steps: [], pins: [] };

const toLab = converter('lab');

let pool: Pool;
let space: OwnSpace;
/** Of more than a JPEG holds in one segment. */
const bytes = paperProfile({}, 21);
beforeAll(async () => {
  provideNodeWasm();
  pool = nodePool(2);
  pool.register('f', frame);
  const { profile } = await pool.run('profile', { file: new Blob([bytes]), name: 'Matte.icc' });
  const { title, key } = profile;
  space = { title, key, profile: profile.profile, intent: 'relative', blackPoint: true };
});
afterAll(() => pool.close());

const exported = async (settings: Omit<ExportSettings, 'space'>, of = picture): Promise<Buffer> =>
  Buffer.from(await (await exportPicture(pool, shape, of, { ...settings, space })).arrayBuffer());

it.each([
  ['png', 'u16'],
  ['tiff', 'u16'],
  ['jpeg', 'u8'],
  ['webp', 'u8']
] as const)('goes whole into the file, with what it makes of the picture: %s', async (format, depth) => {
  const file = await exported({ format, depth, quality: 90 });
  const { icc, channels } = await sharp(file).metadata();
  expect(icc && Buffer.from(bytes).equals(icc)).toBe(true);
  expect(channels).toBe(3);
  if (depth === 'u8') return;
  await ready(space);
  const wanted = new Uint16Array(samples.length);
  const whole = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  withEvaluated(planOf(frame, []), 0, whole, null, (raster) => quantize(raster, wanted, WIDTH, { space }));
  const { samples: read } = await decodeImage(file);
  let differ = 0;
  for (let i = 0; i < wanted.length; i++) if (read[i] !== wanted[i]) differ++;
  expect(differ).toBe(0);
});

it('of greys stays a picture of three channels, whose profile is of RGB', async () => {
  const upper = sharedSamples('u16', 30 * 20 * 3).fill(30_000);
  const levels = buildPyramid({ width: 30, height: 20, samples: upper }, 3);
  pool.register('g', { ...frame, width: 30, height: 20, levels } as Frame);
  const settings = { format: 'png', depth: 'u16', space } as const;
  const small = { ...shape, width: 30, height: 20 };
  const file = await exportPicture(pool, small, { ...picture, head: headOf('g') }, settings);
  const { channels } = await sharp(Buffer.from(await file.arrayBuffer())).metadata();
  expect(channels).toBe(3);
});

it('has no place in a format that says its space by numbers', async () => {
  await expect(exported({ format: 'avif', depth: 'u8' })).rejects.toThrow(RangeError);
});

it('changes what it can’t hold, which is counted, and seen', async () => {
  const settings = { format: 'png', depth: 'u16', space } as const;
  const { outside, pixels } = await outsideOfFile(pool, shape, picture, settings);
  expect(pixels).toBe(WIDTH * HEIGHT);
  // By hand: those whose values lie clearly beyond 0…1 are, those whose values lie within are not.
  const beyond = (by: number): number => {
    let count = 0;
    for (let i = 0; i < samples.length; i += 3) {
      const [r, g, b] = [0, 1, 2].map((c) => samples[i + c] / 65535);
      const { l, a, b: blue } = toLab({ mode: 'rgb', r, g, b });
      if (paperValues([l, a, blue]).some((v) => v < -by || v > 1 + by)) count++;
    }
    return count;
  };
  expect(outside).toBeGreaterThan(beyond(0.2));
  expect(outside).toBeLessThan(beyond(0));
  expect(beyond(0) - beyond(0.2)).toBeLessThan(0.35 * pixels);
  const seen = await outsideSeen(pool, shape, picture, settings, 550);
  expect((await sharp(seen).metadata()).width).toBe(550);
});

it('is chosen in words, and refused in words', async () => {
  const { profile } = await pool.run('profile', { file: new Blob([bytes]), name: 'Matte.icc' });
  const of = (words: object, into: object = {}, intents = profile.intents): unknown =>
    inOwnProfile(renderSettings({ format: 'png', ...words }), { ...profile, intents }, into).space;
  expect(of({})).toMatchObject({ title: 'Matte', intent: 'relative', blackPoint: true });
  expect(of({}, { intent: 'perceptual', blackPoint: false })).toMatchObject({
    intent: 'perceptual',
    blackPoint: false
  });
  expect(() => of({ format: 'avif' })).toThrow('AVIF has no place for it; use PNG, JPEG, TIFF or WebP');
  for (const space of ['rec2020', 'srgb']) expect(() => of({ space })).toThrow('a space is named beside it');
  expect(() => of({ grey: true })).toThrow('it is of RGB');
  expect(() => of({}, { intent: 'saturation' })).toThrow('use relative or perceptual');
  expect(() => of({}, { intent: 'perceptual' }, ['relative'])).toThrow('no tables for it');
});
