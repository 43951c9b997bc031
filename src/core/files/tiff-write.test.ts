import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { provideNodeWasm } from '../../engine/node/wasm';
import { randomStream } from '../random';
import { largestDifference, tiffCompression } from '../testing';
import { decodeImage, type FinishedImage } from '.';
import { writeTiff } from './tiff-write';

/** Against libtiff, by sharp. */
beforeAll(provideNodeWasm);

const HEIGHT = 301;
const random = randomStream(8);

/** Soft, with grain and with steps that a difference takes beyond 16 bits. */
const soft = (width: number, height: number, channels: number): Uint16Array =>
  Uint16Array.from({ length: width * height * channels }, (_, i) => {
    const x = Math.floor(i / channels) % width;
    return x % 50 === 0
      ? 65535 * (i % 2)
      : 30000 + 20000 * Math.sin(x / 300 + (i % channels)) + 40 * random();
  });

interface Case {
  readonly title: string;
  readonly channels: number;
  readonly image: Pick<FinishedImage, 'alpha' | 'grey'>;
}
const CASES: readonly Case[] = [
  { title: 'colours', channels: 3, image: { alpha: false } },
  { title: 'colours and alpha', channels: 4, image: { alpha: true } },
  { title: 'greys', channels: 1, image: { alpha: false, grey: true } }
];

describe.each(CASES)('a TIFF of $title', ({ channels, image }) => {
  // Rows of which several strips are made, the last of them shorter; and of one pixel.
  it.each([
    [2400, HEIGHT],
    [1, 1],
    [3, 700]
  ])('of 16 bits is read by others to the bit, %i × %i, and is smaller', async (width, height) => {
    const samples = soft(width, height, channels);
    const file = await writeTiff({ width, height, ...image, samples });
    const meta = await sharp(file).metadata();
    expect([meta.width, meta.height, meta.channels, meta.depth]).toEqual([width, height, channels, 'ushort']);
    const space = image.grey ? 'grey16' : 'rgb16';
    const theirs = await sharp(file, { ignoreIcc: true })
      .pipelineColourspace(space)
      .toColourspace(space)
      .raw({ depth: 'ushort' })
      .toBuffer();
    const read = new Uint16Array(theirs.buffer, theirs.byteOffset, theirs.length / 2);
    expect(read.findIndex((v, i) => v !== samples[i])).toBe(-1);
    expect(read.length).toBe(samples.length);
    const own = await decodeImage(file);
    expect((own.samples as Uint16Array).findIndex((v, i) => v !== samples[i])).toBe(-1);
    if (width === 2400) expect(file.length).toBeLessThan(0.8 * samples.byteLength);
  });

  it.each([
    [2400, HEIGHT],
    [1, 1],
    [3, 700]
  ])('of 16 bits lies in it as it is where that is asked for, %i × %i', async (width, height) => {
    const samples = soft(width, height, channels);
    const file = await writeTiff({ width, height, ...image, compression: 'none', samples });
    expect(Buffer.compare(file.subarray(-samples.byteLength), Buffer.from(samples.buffer))).toBe(0);
    expect(await tiffCompression(file)).toBe('none');
    const theirs = await sharp(file, { ignoreIcc: true })
      .pipelineColourspace(image.grey ? 'grey16' : 'rgb16')
      .toColourspace(image.grey ? 'grey16' : 'rgb16')
      .raw({ depth: 'ushort' })
      .toBuffer();
    expect(Buffer.compare(theirs, Buffer.from(samples.buffer))).toBe(0);
    const packed = await writeTiff({ width, height, ...image, compression: 'deflate', samples });
    expect(await tiffCompression(packed)).toBe('deflate');
    expect(Buffer.compare(packed, await writeTiff({ width, height, ...image, samples }))).toBe(0);
  });

  it('of 8 bits and of floats lies in it as it is', async () => {
    const bytes = Uint8Array.from(soft(2400, HEIGHT, channels), (v) => v >> 8);
    const eight = await writeTiff({ width: 2400, height: HEIGHT, ...image, samples: bytes });
    const theirs = await (image.grey ? sharp(eight).toColourspace('b-w') : sharp(eight)).raw().toBuffer();
    expect(Buffer.compare(theirs, Buffer.from(bytes))).toBe(0);
    expect(eight.length).toBeLessThan(bytes.length + 4000);
    const floats = Float32Array.from(bytes, (v) => v / 200 - 0.1);
    const file = await writeTiff({ width: 2400, height: HEIGHT, ...image, samples: floats });
    const own = await decodeImage(file);
    expect(own.samples).toBeInstanceOf(Float32Array);
    expect(own.samples).toHaveLength(floats.length);
    expect(largestDifference(own.samples, floats)).toBe(0);
    // As they lie in memory, at the end.
    expect(Buffer.compare(file.subarray(-floats.byteLength), Buffer.from(floats.buffer))).toBe(0);
  });
});
