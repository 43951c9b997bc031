import { strToU8, zipSync } from 'fflate';
import { damagedFits } from './fits-files';
import { crc32 } from '../src/core/files/crc';
import sharp, { type Sharp } from 'sharp';

/** A file that is not what it says, and a word that its message must hold. */
export interface DamagedFile {
  readonly name: string;
  readonly bytes: Buffer;
  readonly says: RegExp;
}

const WIDTH = 64;
const HEIGHT = 48;
const pixels = Buffer.from(Uint8Array.from({ length: WIDTH * HEIGHT * 3 }, (_, i) => (i * 7919) % 251));
const image = (): Sharp => sharp(pixels, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } });

/** `file` with bytes replaced from `at` on. */
function patched(file: Buffer, at: number, bytes: readonly number[]): Buffer {
  const copy = Buffer.from(file);
  copy.set(bytes, at);
  return copy;
}

const long = (v: number): number[] => [v >>> 24, (v >>> 16) & 255, (v >>> 8) & 255, v & 255];

/** A PNG with its header's content changed and its check sum made right again. */
function withHeader(png: Buffer, at: number, bytes: readonly number[]): Buffer {
  const changed = patched(png, 16 + at, bytes);
  changed.set(long(crc32(changed.subarray(12, 29))), 29);
  return changed;
}

/** Sets a value of a little-endian TIFF's first directory. */
function withTag(tiff: Buffer, tag: number, value: number): Buffer {
  const copy = Buffer.from(tiff);
  const directory = copy.readUInt32LE(4);
  for (let i = 0; i < copy.readUInt16LE(directory); i++) {
    const at = directory + 2 + 12 * i;
    if (copy.readUInt16LE(at) !== tag) continue;
    if (copy.readUInt16LE(at + 2) === 3) copy.writeUInt16LE(value & 0xffff, at + 8);
    else copy.writeUInt32LE(value, at + 8);
    return copy;
  }
  throw new Error(`no tag ${tag}`);
}

/** More than thirty of them. */
export async function damagedFiles(): Promise<DamagedFile[]> {
  const png = await image().png().toBuffer();
  const wide = await image().toColourspace('rgb16').png().toBuffer();
  const jpeg = await image().jpeg().toBuffer();
  const tiff = await image().tiff({ compression: 'none' }).toBuffer();
  const lzw = await image().tiff({ compression: 'lzw' }).toBuffer();
  const zipped = await image().tiff({ compression: 'deflate' }).toBuffer();
  const frameMarker = jpeg.findIndex((b, i) => b === 0xff && [0xc0, 0xc2].includes(jpeg[i + 1]));
  const data = png.indexOf('IDAT');
  const file = (name: string, bytes: Buffer, says: RegExp): DamagedFile => ({ name, bytes, says });
  const json = (value: unknown): Uint8Array => strToU8(JSON.stringify(value));
  const document = {
    kromba: 1,
    kind: 'document',
    name: 'x',
    frames: [{ id: 'f', name: 'f', file: 'f.png' }]
  };
  return [
    ...damagedFits(),
    file('empty.png', Buffer.alloc(0), /empty/),
    file('text.png', Buffer.from('This is only text.'), /no picture/),
    file('text.tif', Buffer.from('II, said the text'), /no picture|damaged|ends before/),
    file('page.jpg', Buffer.from('<!doctype html><title>Not found</title>'), /no picture/),
    file('signature-only.png', png.subarray(0, 8), /ends before/),
    file('half.png', png.subarray(0, png.length / 2), /ends before/),
    file('no-end.png', png.subarray(0, png.length - 12), /ends before/),
    file('half-16-bit.png', wide.subarray(0, wide.length * 0.7), /ends before/),
    file('huge-header.png', withHeader(png, 0, [...long(30000), ...long(30000)]), /30000×30000/),
    file('lying-header.png', withHeader(png, 0, [...long(12000), ...long(12000)]), /12000×12000/),
    file('taller.png', withHeader(png, 4, long(HEIGHT + 9)), /ends before/),
    file('zero-wide.png', withHeader(png, 0, long(0)), /no picture/),
    file('zero-high.png', withHeader(png, 4, long(0)), /no picture/),
    file('three-bit.png', withHeader(png, 8, [3]), /damaged/),
    file('colour-type-5.png', withHeader(png, 9, [5]), /damaged/),
    file('header-sum.png', patched(png, 16, long(65)), /check sum/),
    file('scrambled.png', patched(png, data + 20, Array<number>(40).fill(0x5a)), /damaged|ends before/),
    file('long-part.png', patched(png, data - 4, long(0x7fffffff)), /ends before/),
    file('half.jpg', jpeg.subarray(0, jpeg.length / 2), /ends before/),
    file('start-only.jpg', jpeg.subarray(0, 20), /ends before/),
    file(
      'no-header.jpg',
      Buffer.concat([jpeg.subarray(0, 2), Buffer.from([0xff, 0xda, 0, 2, 0xff, 0xd9])]),
      /damaged/
    ),
    file('huge-header.jpg', patched(jpeg, frameMarker + 5, [0x75, 0x30, 0x75, 0x30]), /30000×30000/),
    file('zero-high.jpg', patched(jpeg, frameMarker + 5, [0, 0]), /no picture/),
    file('twelve-bit.jpg', patched(jpeg, frameMarker + 4, [12]), /can’t be read/),
    file('half.tif', tiff.subarray(0, tiff.length / 2), /ends before/),
    file('head-only.tif', tiff.subarray(0, 6), /ends before|damaged/),
    file(
      'huge-header.tif',
      withTag(withTag(tiff, 256, 30000), 257, 30000),
      /30000×30000|ends before|damaged/
    ),
    file('zero-wide.tif', withTag(tiff, 256, 0), /no picture/),
    file('directory-outside.tif', patched(tiff, 4, [255, 255, 255, 0]), /ends before/),
    file('unknown-packing.tif', withTag(tiff, 259, 50000), /compression/),
    file('scrambled.tif', patched(lzw, 40, Array<number>(60).fill(0xff)), /damaged|ends before/),
    file('scrambled-deflate.tif', patched(zipped, 12, Array<number>(60).fill(0x33)), /damaged|ends before/),
    file('two-bit.tif', withTag(tiff, 277, 1), /channels|damaged|bit/),
    file(
      'half.kromba',
      Buffer.from(zipSync({ 'document.kromba.json': json(document) })).subarray(0, 90),
      /zip/
    ),
    file('no-frame.kromba', Buffer.from(zipSync({ 'document.kromba.json': json(document) })), /f\.png/),
    file(
      'unknown-step.kromba',
      Buffer.from(
        zipSync({
          'document.kromba.json': json({
            ...document,
            pictures: [
              {
                id: 'p',
                name: 'p',
                head: { kind: 'frame', frame: 'f' },
                steps: [{ id: 's', op: 'sparkle', params: {} }]
              }
            ]
          }),
          'f.png': png
        })
      ),
      /sparkle/
    )
  ];
}
