import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { converter } from 'culori';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { paperLab, paperProfile, paperValues, perceptualLab } from '../../../e2e/paper-profile';
import { provideNodeWasm } from '../../engine/node/wasm';
import type { Intent, OwnSpace } from '../colour/own';
import { spaceOf } from '../colour/output';
import { exactDecode } from '../colour/transfer';
import { outsideOf } from '../path/outside';
import { quantize } from '../path/quantize';
import { randomStream } from '../random';
import type { Raster } from '../raster/raster';
import { readOwnProfile, ready } from './own-profile';
import { spaceProfile } from './srgb-profile';

provideNodeWasm();
const TRANSICC = '/usr/bin/transicc';
const COUNT = 1000;
const random = randomStream(17);

const rasterOf = (planes: readonly Float32Array[], encoding: Raster['encoding'] = 'coded'): Raster => ({
  ...{ x: 0, y: 0, width: planes[0].length, height: 1, encoding, alpha: null },
  planes: planes as unknown as Raster['planes']
});
/** One of a* in 16 bits, as the paper's values have it, and half of one. */
const STEP = 1.5 / 256 / 60;
const colours = [0, 1, 2].map(() => Float32Array.from({ length: COUNT }, () => random()));

async function spaceBy(
  profile: Uint8Array<ArrayBuffer>,
  intent: Intent = 'relative',
  blackPoint = false
): Promise<OwnSpace> {
  const space = { ...(await readOwnProfile(profile, 'Matte.icc')), intent, blackPoint };
  await ready(space);
  return space;
}

function written(raster: Raster, space: OwnSpace): Float32Array {
  const samples = new Float32Array(3 * raster.width);
  quantize(raster, samples, raster.width, { space, keepRange: true, keepMissing: true });
  return samples;
}

const paper = paperProfile();
const matrix = spaceProfile(spaceOf('display-p3')) as Uint8Array<ArrayBuffer>;

describe('a profile of one’s own', () => {
  it('is told by its file, and knows the ways that it has tables for', async () => {
    expect(await readOwnProfile(paper, 'Matte 310.icc')).toMatchObject({
      title: 'Matte 310',
      intents: ['relative', 'perceptual']
    });
    expect((await readOwnProfile(matrix, 'screen.icm')).intents).toEqual(['relative']);
  });

  it.each([
    ['nothing', new Uint8Array(0), /no ICC profile/],
    ['a text', new TextEncoder().encode('x'.repeat(500)), /no ICC profile/],
    ['one of inks', paperProfile({ 16: 'CMYK' }), /of CMYK inks, and Kromba writes RGB/],
    ['one of greys', paperProfile({ 16: 'GRAY' }), /of greys/],
    ['one between devices', paperProfile({ 12: 'link' }), /from one device to another/],
    ['one that is only read from', paperProfile({ 192: 'none', 204: 'nope' }), /only how colours are read/],
    ['half of one', paper.slice(0, 3000), /damaged/],
    ['a very large one', new Uint8Array(9 * 2 ** 20), /larger than 8 MB/]
  ])('is refused in words: %s', async (_, bytes, why) => {
    await expect(readOwnProfile(bytes as Uint8Array<ArrayBuffer>, 'x.icc')).rejects.toThrow(why);
    await expect(readOwnProfile(bytes as Uint8Array<ArrayBuffer>, 'x.icc')).rejects.toThrow(/“x\.icc”/);
  });

  it('of matrix and curves gives what the space itself gives, and leaves what lies outside it', async () => {
    const wide = rasterOf(colours.map((plane) => plane.map((v) => 1.4 * v - 0.2)));
    const own = written(wide, await spaceBy(matrix));
    const ours = new Float32Array(3 * COUNT);
    quantize(wide, ours, COUNT, { space: 'display-p3', keepRange: true });
    // Its numbers are 65536ths of light.
    own.forEach((v, i) => {
      if (ours[i] >= 0) expect(Math.abs(exactDecode(v) - exactDecode(ours[i]))).toBeLessThan(2 / 65536);
    });
    expect(Math.max(...own)).toBeGreaterThan(1.05);
  });

  it('of tables gives what they say, by hand', async () => {
    // Colours that the paper holds, as sRGB.
    const values = Array.from(
      { length: 200 },
      () => [0, 1, 2].map(() => 0.25 + 0.5 * random()) as unknown as [number, number, number]
    );
    const toRgb = converter('lrgb');
    const raster = (labs: readonly (readonly number[])[]): Raster => {
      const rgb = labs.map(([l, a, b]) => toRgb({ mode: 'lab', l, a, b }));
      return rasterOf(
        (['r', 'g', 'b'] as const).map((c) => Float32Array.from(rgb, (one) => one[c])),
        'linear'
      );
    };
    const labs = values.map(paperLab);
    const made = written(raster(labs), await spaceBy(paper));
    made.forEach((v, i) => expect(v).toBeCloseTo(values[Math.floor(i / 3)][i % 3], 2));
    const seen = written(raster(labs), await spaceBy(paper, 'perceptual'));
    seen.forEach((v, i) => {
      const hand = paperValues(perceptualLab(labs[Math.floor(i / 3)]))[i % 3];
      if (hand > 0.1 && hand < 0.9) expect(v).toBeCloseTo(hand, 2);
    });
    // What it holds is not outside; strong colours are, and the black of the screen.
    expect(outsideOf(raster(labs), { space: await spaceBy(paper) })).toEqual({ outside: 0, pixels: 200 });
    const strong = rasterOf([
      Float32Array.of(1, 0, 0, NaN),
      Float32Array.of(0, 0, 1, 0),
      Float32Array.of(0, 0, 0, 0)
    ]);
    expect(outsideOf(strong, { space: await spaceBy(paper) })).toEqual({ outside: 3, pixels: 3 });
  });

  it('takes coded and linear values for the same light, and leaves missing what is missing', async () => {
    const space = await spaceBy(paper, 'relative', true);
    const linear = colours.map((plane) => plane.map(exactDecode));
    const [one, other] = [written(rasterOf(colours), space), written(rasterOf(linear, 'linear'), space)];
    one.forEach((v, i) => expect(Math.abs(v - other[i])).toBeLessThan(STEP));
    const holes = colours.map((plane, c) => plane.map((v, i) => (i === 5 && c === 1 ? NaN : v)));
    const with5 = written(rasterOf(holes), space);
    expect([...with5.subarray(15, 18)]).toEqual([NaN, NaN, NaN]);
    with5.forEach((v, i) => void (Math.floor(i / 3) === 5 || expect(v).toBe(one[i])));
  });

  it('leaves alpha as it is, of one pixel as well', async () => {
    const space = await spaceBy(paper, 'relative', true);
    const alone = written(rasterOf(colours), space);
    for (const [alpha, value] of [
      [1, 65535],
      [0.25, 16384],
      [0, 0]
    ]) {
      const one = rasterOf(colours.map((plane) => plane.slice(7, 8)));
      const samples = new Uint16Array(4);
      quantize({ ...one, alpha: Float32Array.of(alpha) }, samples, 1, { space });
      const wanted = [...alone.subarray(21, 24)].map((v) => Math.round(65535 * Math.min(1, Math.max(0, v))));
      expect([...samples]).toEqual([...wanted, value]);
    }
  });

  it('of a picture larger than what is converted at once is what its parts are', async () => {
    const space = await spaceBy(paper);
    const n = 65536 + 1000;
    const planes = colours.map((plane) => Float32Array.from({ length: n }, (_, i) => plane[i % COUNT]));
    const all = written(rasterOf(planes), space);
    const part = written(rasterOf(colours), space);
    for (let i = 0; i < 3 * n; i += 7) expect(all[i]).toBe(part[i % (3 * COUNT)]);
  });
});

describe.skipIf(!existsSync(TRANSICC))('lcms in its own program', () => {
  let folder = '';
  beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'kromba-own-'))));
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  it.each([
    ['relative', false, ['-t1']],
    ['relative', true, ['-t1', '-b']],
    ['perceptual', false, ['-t0']],
    ['perceptual', true, ['-t0', '-b']]
  ] as const)('comes to the same values: %s, black point %s', async (intent, blackPoint, options) => {
    const path = join(folder, 'paper.icc');
    writeFileSync(path, paper);
    const made = written(rasterOf(colours), await spaceBy(paper, intent, blackPoint));
    const input = Array.from({ length: COUNT }, (_, i) =>
      colours.map((plane) => (255 * plane[i]).toFixed(9)).join(' ')
    ).join('\n');
    const answer = execFileSync(TRANSICC, ['-n', '-c0', ...options, '-i*sRGB', `-o${path}`], {
      input: `${input}\n`,
      encoding: 'utf8',
      stdio: ['pipe', 'pipe', 'ignore']
    });
    const theirs = answer.trim().split(/\s+/).map(Number);
    expect(theirs).toHaveLength(3 * COUNT);
    const off = theirs.map((v, i) => Math.abs((65535 * v) / 255 - 65535 * Math.min(1, Math.max(0, made[i]))));
    expect(Math.max(...off)).toBeLessThan(0.1);
  });
});
