import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { provideNodeWasm } from '../../engine/node/wasm';
import { spaceOf, spaces, type SpaceId } from '../colour/output';
import { exactDecode } from '../colour/transfer';
import { quantize } from '../path/quantize';
import { randomStream } from '../random';
import type { Raster } from '../raster/raster';
import { fileFormats } from './index';
import { readTiff } from './tiff-read';
import { intoSrgb } from './profile';
import { spaceProfile } from './srgb-profile';

provideNodeWasm();
const TRANSICC = '/usr/bin/transicc';
const EXIFTOOL = '/usr/bin/exiftool';
const COUNT = 1000;
const random = randomStream(91);
const planes = [0, 1, 2].map(() => Float32Array.from({ length: COUNT }, () => random()));
const raster: Raster = {
  ...{ x: 0, y: 0, width: COUNT, height: 1, encoding: 'coded', alpha: null },
  planes: planes as unknown as Raster['planes']
};

/** It takes and gives floats, as parts of 255 with four digits behind the point. */
const UNIT = 65535 / 255;

/** Numbers of 16 bits through lcms, in its own program: relative colorimetric, nothing precalculated. */
function throughLcms(profiles: readonly string[], colours: readonly (readonly number[])[]): number[][] {
  const input = colours.map((colour) => colour.map((v) => (v / UNIT).toFixed(5)).join(' ')).join('\n');
  const answer = execFileSync(TRANSICC, ['-n', '-c0', '-t1', ...profiles], {
    input: `${input}\n`,
    encoding: 'utf8',
    stdio: ['pipe', 'pipe', 'ignore']
  });
  return answer
    .trim()
    .split('\n')
    .map((line) =>
      line
        .trim()
        .split(/\s+/)
        .map((v) => UNIT * Number(v))
    );
}

let folder = '';
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'kromba-lcms-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A file of the colours in a space, its samples, and its profile taken out of it by ExifTool. */
async function inFile(space: SpaceId): Promise<{ samples: Uint16Array; file: Uint8Array; profile: string }> {
  const samples = new Uint16Array(3 * COUNT);
  quantize(raster, samples, COUNT, { space });
  const image = { width: COUNT, height: 1, alpha: false, samples, profile: spaceProfile(spaceOf(space)) };
  const file = await fileFormats.find(({ id }) => id === 'tiff')!.write(image, {});
  const [path, profile] = ['tif', 'icc'].map((kind) => join(folder, `${space}.${kind}`));
  writeFileSync(path, file);
  writeFileSync(profile, execFileSync(EXIFTOOL, ['-b', '-icc_profile', path]));
  return { samples, file, profile };
}

describe.skipIf(!existsSync(TRANSICC) || !existsSync(EXIFTOOL))('lcms in its own program', () => {
  // From a space to the same lcms goes by a table of its own.
  it.each(spaces.slice(1).map(({ id }) => id))(
    'comes to the same 16 bits in %s, and back to the colours',
    async (id) => {
      const { samples, file, profile } = await inFile(id);
      const pixels = Array.from({ length: COUNT }, (_, i) => planes.map((plane) => 65535 * plane[i]));
      const theirs = throughLcms(['-i*sRGB', `-o${profile}`], pixels);
      expect(theirs).toHaveLength(COUNT);
      const off = theirs.flat().map((v, i) => Math.abs(v - samples[i]));
      expect(Math.max(...off)).toBeLessThan(1 + 0.5);

      const written = Array.from({ length: COUNT }, (_, i) => [...samples.subarray(3 * i, 3 * i + 3)]);
      const back = throughLcms([`-i${profile}`, '-o*sRGB'], written).flat();
      const read = await intoSrgb(await readTiff(file));
      const scale = read.samples instanceof Float32Array ? 65535 : 1;
      const differ = back.map((v, i) => Math.abs(v - scale * read.samples[i]));
      expect(Math.max(...differ)).toBeLessThan(1 + 0.5);
    }
  );

  it('comes from our sRGB to the same as from its own: greys to 16 bits, colours to the 65536ths of a profile', async () => {
    const [{ profile, samples }, wide] = [await inFile('srgb'), await inFile('display-p3')];
    const greys = Array.from({ length: COUNT }, (_, i) => [60 * i, 60 * i, 60 * i]);
    const colours = Array.from({ length: COUNT }, (_, i) => [...samples.subarray(3 * i, 3 * i + 3)]);
    const most = (of: readonly number[][], scale: (v: number) => number): number => {
      const [ours, own] = [profile, '*sRGB'].map((from) =>
        throughLcms([`-i${from}`, `-o${wide.profile}`], of).flat()
      );
      return Math.max(...ours.map((v, i) => Math.abs(scale(v) - scale(own[i]))));
    };
    expect(most(greys, (v) => v)).toBeLessThan(1);
    // Where a channel is next to nothing a 65536th of light is a dozen steps of 16 bits.
    expect(most(colours, (v) => 65536 * exactDecode(v / 65535))).toBeLessThan(2);
  });

  const lossless = fileFormats.flatMap(({ id: format, spaces: held }) =>
    ['png', 'webp', 'avif', 'jxl'].includes(format) ? held.map((space) => [format, space] as const) : []
  );
  it.each(lossless)('comes to the same 8 bits as %s of %s holds', async (id, space) => {
    const { profile } = await inFile(space);
    const format = fileFormats.find((one) => one.id === id)!;
    const samples = new Uint8Array(3 * COUNT);
    quantize(raster, samples, COUNT, { space });
    const own = space === 'srgb' ? undefined : spaceProfile(spaceOf(space));
    const image = { width: COUNT, height: 1, alpha: false, samples, profile: own };
    const read = await format.read(await format.write(image, { quality: 100, space }));
    const pixels = Array.from({ length: COUNT }, (_, i) => planes.map((plane) => 65535 * plane[i]));
    // Files of sRGB hold no profile.
    const into = space === 'srgb' ? '*sRGB' : profile;
    const theirs = throughLcms(['-i*sRGB', `-o${into}`], pixels).flat();
    const off = theirs.map((v, i) => Math.abs(v - 257 * read.samples[i]));
    expect(off).toHaveLength(read.samples.length);
    expect(Math.max(...off)).toBeLessThan(257 / 2 + 1 + 0.5);
  });

  it.each(spaces.map(({ id }) => id))(
    'and ExifTool find nothing wrong with the profile of %s',
    async (id) => {
      const { profile } = await inFile(id);
      const told = execFileSync(EXIFTOOL, ['-validate', '-warning', '-a', '-s3', profile], {
        encoding: 'utf8'
      });
      expect(told.trim()).toBe('OK');
    }
  );
});
