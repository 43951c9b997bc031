import { converter } from 'culori';
import sharp, { type Sharp } from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { provideNodeWasm } from '../../engine/node/wasm';
import { spaceOf } from '../colour/output';
import { randomStream } from '../random';
import { decodeImage, fileFormats, type FileFormat, type FinishedImage } from '.';
import { openFrame } from './open-frame';
import { spaceProfile } from './srgb-profile';

beforeAll(provideNodeWasm);

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
    expect(read.notices).toEqual(['JPEG XL is read as 8 bits of sRGB: what it holds beyond that is lost.']);
    const small = await formatOf('jxl').write(image(alpha), { quality: 40 });
    expect(small.length).toBeLessThan(file.length);
    expect(apart((await decodeImage(small)).samples, picture(alpha)).mean).toBeLessThan(10);
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
