import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { converter } from 'culori';
import sharp, { type Sharp } from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { provideNodeWasm } from '../../engine/node/wasm';
import { spaceOf } from '../colour/output';
import { randomStream } from '../random';
import { decodeImage, fileFormats, type FileFormat, type FinishedImage } from '.';
import { openFrame } from './open-frame';
import { spaceProfile } from './srgb-profile';

beforeAll(provideNodeWasm);
/** libjxl by its own program (Debian's `libjxl-tools`). */
const CJXL = '/usr/bin/cjxl';

const formatOf = (id: FileFormat['id']): FileFormat => fileFormats.find((format) => format.id === id)!;
const [WIDTH, HEIGHT] = [61, 43];

/** Soft colours, some of them dark; and, where asked for, softer towards the right. */
function picture(alpha: boolean): Uint8Array {
  const channels = alpha ? 4 : 3;
  return Uint8Array.from({ length: WIDTH * HEIGHT * channels }, (_, i) => {
    const [x, y] = [Math.floor(i / channels) % WIDTH, Math.floor(i / channels / WIDTH)];
    if (i % channels === 3) return Math.min(255, 4 * x);
    return 128 + 100 * Math.sin(x / 11 + (i % channels)) * Math.cos(y / 7);
  });
}
const image = (alpha: boolean): FinishedImage => ({
  ...{ width: WIDTH, height: HEIGHT, alpha },
  samples: picture(alpha)
});
const apart = (a: ArrayLike<number>, b: ArrayLike<number>): { mean: number; most: number } => {
  expect(a.length).toBe(b.length);
  const off = Array.from(a, (v, i) => Math.abs(v - b[i]));
  return { mean: off.reduce((x, y) => x + y) / off.length, most: Math.max(...off) };
};

describe.each(['webp', 'avif'] as const)('%s, with sharp at the other end', (id) => {
  const theirs = (alpha: boolean): Sharp =>
    sharp(picture(alpha), { raw: { width: WIDTH, height: HEIGHT, channels: alpha ? 4 : 3 } });

  it.each([false, true])('is read (alpha: %s)', async (alpha) => {
    const file =
      id === 'webp'
        ? await theirs(alpha).webp({ lossless: true, exact: true }).toBuffer()
        : await theirs(alpha).avif({ quality: 100, chromaSubsampling: '4:4:4', effort: 1 }).toBuffer();
    const read = await decodeImage(file);
    expect([read.width, read.height, read.alpha, read.sampleType, read.layout]).toEqual([
      ...[WIDTH, HEIGHT, alpha, 'u8', 'rgb']
    ]);
    const { mean, most } = apart(read.samples, picture(alpha));
    expect(most).toBeLessThanOrEqual(id === 'webp' ? 0 : 12);
    expect(mean).toBeLessThanOrEqual(id === 'webp' ? 0 : 1.2);
  });

  it.each([false, true])('is written (alpha: %s)', async (alpha) => {
    const file = await formatOf(id).write(image(alpha), { quality: 100 });
    const { data, info } = await sharp(file).raw().toBuffer({ resolveWithObject: true });
    expect([info.width, info.height, info.channels]).toEqual([WIDTH, HEIGHT, alpha ? 4 : 3]);
    const { mean } = apart(data, picture(alpha));
    expect(mean).toBeLessThanOrEqual(id === 'webp' ? 0 : 1.2);
    const small = await formatOf(id).write(image(alpha), { quality: 30 });
    expect(small.length).toBeLessThan(0.7 * file.length);
    expect(await formatOf(id).write(image(alpha), { quality: 30 })).toEqual(small);
  });

  it('is written in Display P3', async () => {
    const red = new Uint8Array(3 * 64 * 64).fill(0).map((_, i) => (i % 3 === 0 ? 220 : 60));
    const given = { width: 64, height: 64, alpha: false, samples: red };
    const profile = spaceProfile(spaceOf('display-p3'));
    const file = await formatOf(id).write({ ...given, profile }, { quality: 100, space: 'display-p3' });
    const { frame } = await openFrame(file);
    const [r, g, b] = frame.levels[0].samples.subarray(0, 3);
    if (id === 'webp') expect((await sharp(file).metadata()).icc).toBeDefined();
    const wanted = converter('rgb')({ mode: 'p3', r: 220 / 255, g: 60 / 255, b: 60 / 255 });
    for (const [found, value] of [
      [r, wanted.r],
      [g, wanted.g],
      [b, wanted.b]
    ])
      expect(Math.abs(found - value)).toBeLessThan(0.01);
  });

  it('stands upright', async () => {
    for (const orientation of [1, 3, 6, 8]) {
      const base = theirs(false).withMetadata({ orientation });
      const file = await (
        id === 'webp' ? base.webp({ lossless: true }) : base.avif({ quality: 95, effort: 1 })
      ).toBuffer();
      const { frame } = await openFrame(file);
      const { data, info } = await sharp(file).autoOrient().raw().toBuffer({ resolveWithObject: true });
      expect([frame.width, frame.height]).toEqual([info.width, info.height]);
      expect(apart(frame.levels[0].samples, data).mean, String(orientation)).toBeLessThan(2);
    }
  });
});

it.each(
  (['webp', 'avif', 'jxl'] as const).flatMap((id) => [false, true].map((alpha) => [id, alpha] as const))
)('%s of a single pixel comes back (alpha: %s)', async (id, alpha) => {
  const samples = Uint8Array.from(alpha ? [200, 100, 3, 40] : [200, 100, 3]);
  const file = await formatOf(id).write({ width: 1, height: 1, alpha, samples }, { quality: 100 });
  const read = await decodeImage(file);
  expect([read.width, read.height, read.alpha]).toEqual([1, 1, alpha]);
  expect(apart(read.samples, samples).most).toBeLessThanOrEqual(id === 'avif' ? 4 : 0);
});

describe('AVIF of more bits', () => {
  it('is written with 12 and read with all of them', async () => {
    const samples = Uint16Array.from(
      { length: 3 * 64 * 64 },
      (_, i) => 20000 + 300 * (Math.floor(i / 3) % 64)
    );
    const given = { width: 64, height: 64, alpha: false, samples };
    const file = await formatOf('avif').write(given, { quality: 100 });
    const read = await decodeImage(file);
    expect(read.sampleType).toBe('u16');
    // A step of 8 bits is 257.
    expect(apart(read.samples, samples).mean).toBeLessThan(60);
  });
});

describe('JPEG XL', () => {
  it.each([false, true])('comes back as it was where nothing is to be lost (alpha: %s)', async (alpha) => {
    const file = await formatOf('jxl').write(image(alpha), { quality: 100 });
    const read = await decodeImage(file);
    expect([read.width, read.height, read.alpha]).toEqual([WIDTH, HEIGHT, alpha]);
    expect(apart(read.samples, picture(alpha)).most).toBe(0);
    expect(read.notices).toEqual([]);
    const small = await formatOf('jxl').write(image(alpha), { quality: 40 });
    expect(small.length).toBeLessThan(file.length);
    expect(apart((await decodeImage(small)).samples, picture(alpha)).mean).toBeLessThan(10);
  });
});

describe.skipIf(!existsSync(CJXL))('JPEG XL of its own library', () => {
  let folder = '';
  beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'kromba-jxl-'))));
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  const random = randomStream(12);
  const [ACROSS, DOWN] = [90, 70];
  const deep = Uint16Array.from({ length: 3 * ACROSS * DOWN }, () => 65536 * random());
  const run = (program: string, ...args: string[]): void =>
    void execFileSync(program, args, { cwd: folder, stdio: 'ignore' });
  const raw = (samples: Uint8Array | Uint16Array, channels: 1 | 2 | 3 | 4): Sharp =>
    sharp(samples, { raw: { width: ACROSS, height: DOWN, channels } });
  const read = (name: string): ReturnType<typeof decodeImage> =>
    decodeImage(readFileSync(join(folder, name)));

  it('is read with all of its 16 bits', async () => {
    await raw(deep, 3).toColourspace('rgb16').png().toFile(join(folder, 'deep.png'));
    run(CJXL, '-d', '0', 'deep.png', 'deep.jxl');
    const image = await read('deep.jxl');
    expect([image.sampleType, image.alpha, image.layout, image.notices]).toEqual(['u16', false, 'rgb', []]);
    expect(Buffer.from(Uint16Array.from(image.samples).buffer).equals(Buffer.from(deep.buffer))).toBe(true);
  });

  it('is read as the very 8 bits that were written, dark ones beside bright ones as well', async () => {
    const samples = Uint8Array.from({ length: 3 * ACROSS * DOWN }, (_, i) => (i % 3 ? 256 : 20) * random());
    const given = { width: ACROSS, height: DOWN, alpha: false, samples };
    writeFileSync(join(folder, 'own.jxl'), await formatOf('jxl').write(given, { quality: 100 }));
    run('djxl', 'own.jxl', 'own.png');
    const { data, info } = await sharp(join(folder, 'own.png'), { ignoreIcc: true })
      .raw()
      .toBuffer({ resolveWithObject: true });
    const theirs = samples.map((_, i) => data[info.channels * Math.floor(i / 3) + (i % 3)]);
    expect(apart(theirs, samples).most).toBe(0);
    expect(apart((await read('own.jxl')).samples, theirs).most).toBe(0);
  });

  it('is read with greys, with alpha, and in the space that it says', async () => {
    const grey = deep.filter((_, i) => i % 3 === 0);
    await raw(grey, 1).toColourspace('grey16').png().toFile(join(folder, 'grey.png'));
    run(CJXL, '-d', '0', 'grey.png', 'grey.jxl');
    const greys = await read('grey.jxl');
    expect([greys.layout, greys.sampleType]).toEqual(['grey', 'u16']);
    expect(apart(greys.samples, grey).most).toBe(0);

    const four = Uint8Array.from({ length: 4 * ACROSS * DOWN }, () => 256 * random());
    await raw(four, 4).png().toFile(join(folder, 'four.png'));
    run(CJXL, '-d', '0', 'four.png', 'four.jxl');
    const clear = await read('four.jxl');
    expect(clear.alpha).toBe(true);
    expect(apart(clear.samples, four).most).toBe(0);

    const profile = Buffer.from(spaceProfile(spaceOf('adobe-rgb')));
    writeFileSync(join(folder, 'wide.icc'), profile);
    await raw(deep, 3).toColourspace('rgb16').png().toFile(join(folder, 'wide.png'));
    run(CJXL, '-d', '0', '-x', 'icc_pathname=wide.icc', 'wide.png', 'wide.jxl');
    const wide = await read('wide.jxl');
    expect(wide.profile && Buffer.from(wide.profile).equals(profile)).toBe(true);
    expect(apart(wide.samples, deep).most).toBe(0);
    // Which is turned into sRGB in floats.
    expect((await openFrame(readFileSync(join(folder, 'wide.jxl')))).frame.sampleType).toBe('f32');
  });

  it('is read upright', async () => {
    await raw(deep, 3)
      .jpeg({ quality: 95 })
      .withMetadata({ orientation: 6 })
      .toFile(join(folder, 'turned.jpg'));
    run(CJXL, '-j', '0', '-d', '0', 'turned.jpg', 'turned.jxl');
    run('djxl', 'turned.jxl', 'turned.png');
    const theirs = sharp(join(folder, 'turned.png'), { ignoreIcc: true });
    const { width, height } = await theirs.metadata();
    expect([width, height]).toEqual([DOWN, ACROSS]);
    const { frame } = await openFrame(readFileSync(join(folder, 'turned.jxl')));
    expect([frame.width, frame.height]).toEqual([DOWN, ACROSS]);
    const { levels } = frame;
    expect(apart(levels[0].samples, await theirs.raw().toBuffer()).most).toBe(0);
  });

  it('of a lossy one comes to what its own library does', async () => {
    await sharp(picture(false), { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .png()
      .toFile(join(folder, 'soft.png'));
    run(CJXL, '-d', '1', 'soft.png', 'soft.jxl');
    run('djxl', 'soft.jxl', 'back.png');
    const theirs = await sharp(join(folder, 'back.png'), { ignoreIcc: true }).raw().toBuffer();
    expect(apart((await read('soft.jxl')).samples, theirs).most).toBeLessThanOrEqual(1);
  });

  it('tells what of it is lost: HDR is brought into sRGB, floats into 16 bits', async () => {
    await raw(deep, 3).toColourspace('rgb16').png().toFile(join(folder, 'hdr.png'));
    run(CJXL, '-d', '0', '-x', 'color_space=RGB_D65_202_Rel_PeQ', 'hdr.png', 'hdr.jxl');
    expect((await read('hdr.jxl')).notices.join()).toMatch(/HDR.* brought into sRGB/);
    const floats = Float32Array.from({ length: 3 * ACROSS * DOWN }, () => random());
    const head = Buffer.from(`PF\n${ACROSS} ${DOWN}\n-1.0\n`);
    writeFileSync(join(folder, 'float.pfm'), Buffer.concat([head, Buffer.from(floats.buffer)]));
    run(CJXL, '-d', '0', 'float.pfm', 'float.jxl');
    expect((await read('float.jxl')).notices).toEqual([
      'Its floats are read as 16 bits: what lies outside 0…1 is lost.'
    ]);
  });
});

describe('files that hold less than they say', () => {
  const NEW = ['webp', 'avif', 'jxl'] as const;
  const made: Partial<Record<(typeof NEW)[number], Uint8Array>> = {};
  beforeAll(async () => {
    for (const id of NEW) made[id] = await formatOf(id).write(image(true), { quality: 90 });
  });

  it.each(NEW)('%s is told to be damaged wherever it ends, and within two seconds', async (id) => {
    const file = made[id]!;
    for (let end = 3; end < file.length; end += Math.max(1, Math.floor(file.length / 40))) {
      const start = performance.now();
      await expect(decodeImage(file.slice(0, end))).rejects.toThrow(
        /Copy it again|no picture that Kromba reads/
      );
      expect(performance.now() - start).toBeLessThan(2000);
    }
  });

  it.each(NEW)('%s is read or refused in words, whatever becomes of its bytes', async (id) => {
    const random = randomStream(90);
    for (let k = 0; k < 150; k++) {
      const file = made[id]!.slice();
      for (let n = 0; n < 3; n++) file[Math.floor(random() * Math.min(file.length, 400))] = 256 * random();
      const start = performance.now();
      const outcome = await decodeImage(file).catch((error: Error) => error);
      if (outcome instanceof Error) {
        expect(outcome.name, `${outcome.message}, ${k}`).toBe('FileError');
        expect(outcome.message).toMatch(/[.] (Copy|Kromba|Save|Close|Choose)|no picture|film/);
      }
      expect(performance.now() - start).toBeLessThan(2000);
    }
    // What was broken off leaves the codec whole.
    expect((await decodeImage(made[id]!)).width).toBe(WIDTH);
  });

  it('is not decoded where it claims to be huge', async () => {
    const webp = made.webp!.slice();
    // The size of the picture itself, or of the extended header.
    const huge = await formatOf('jxl').write({ ...image(false) }, { quality: 100 });
    const stream = huge[0] === 0xff ? 0 : huge.findIndex((v, i) => v === 0xff && huge[i + 1] === 0x0a);
    // Not small, 30 bits of height, all of them set.
    huge.set([0b11110, 0xff, 0xff, 0xff, 0xff], stream + 2);
    huge[stream + 2] = 0b11111110;
    await expect(decodeImage(huge)).rejects.toThrow(/pixels a side|million/);
    expect(webp.length).toBeGreaterThan(100);
  });

  it('too large a WebP is not written, in words', async () => {
    const samples = new Uint8Array(3 * 16384);
    await expect(
      formatOf('webp').write({ width: 16384, height: 1, alpha: false, samples }, {})
    ).rejects.toThrow('WebP holds 16383 a side');
  });
});
