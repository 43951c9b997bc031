import { createCRC32 } from 'hash-wasm';
import { zlibSync } from 'fflate';
import type { Samples } from '../raster/frame';
import { crc32 } from './crc';
import { joined } from './deflate';
import { finishedChannels, type FinishedImage } from './image';
import type { FileParts } from './parts';
import { pngTexts } from './metadata/png';
import { filterPaeth } from './png-filter';
import { packPart, sumOfParts, ZLIB_BEGINNING, type PackedPart } from './zlib';

const latin = new TextEncoder();

const chunk = (type: string, content: Uint8Array): Uint8Array[] =>
  framed(type, content, crc32(latin.encode(type), content));

/** The same of a content whose check sum takes its time. */
async function largeChunk(type: string, content: Uint8Array): Promise<Uint8Array[]> {
  const crc = await createCRC32();
  return framed(
    type,
    content,
    Number.parseInt(crc.init().update(latin.encode(type)).update(content).digest('hex'), 16)
  );
}

function framed(type: string, content: Uint8Array, sum: number): Uint8Array[] {
  const name = latin.encode(type);
  const ends = new Uint8Array(12);
  const view = new DataView(ends.buffer);
  view.setUint32(0, content.length);
  ends.set(name, 4);
  view.setUint32(8, sum);
  return [ends.subarray(0, 8), content, ends.subarray(8)];
}

/** Bytes of rows that are packed together, about. */
const PART = 2 ** 21;
type Rows = Pick<FinishedImage, 'width' | 'height' | 'alpha' | 'grey' | 'samples'>;

const rowBytes = ({ width, samples, ...kind }: Rows): number =>
  width * finishedChannels(kind) * samples.BYTES_PER_ELEMENT;
const rowsAPart = (image: Rows): number => Math.max(1, Math.floor(PART / (rowBytes(image) + 1)));

/** What a profile is called, the end of its name, and that it is deflated. */
const PROFILE_NAME = latin.encode('ICC profile\0\0');

/** A PNG, 8 or 16 bit by the samples' type, tagged sRGB or with its profile, in parts that can be made side by side. */
export const pngParts: FileParts<PackedPart> = {
  count: (image) => Math.ceil(image.height / rowsAPart(image)),
  async part(image, index) {
    const rows = rowsAPart(image);
    const last = (index + 1) * rows >= image.height;
    const packed = await packPart(
      filtered(image, index * rows, Math.min(image.height, (index + 1) * rows)),
      last
    );
    return { ...packed, bytes: joined(await largeChunk('IDAT', packed.bytes)) };
  },
  around(image, parts) {
    const { width, height, alpha, grey, samples, profile, metadata = {} } = image;
    const header = new Uint8Array(13);
    const view = new DataView(header.buffer);
    view.setUint32(0, width);
    view.setUint32(4, height);
    header.set([8 * samples.BYTES_PER_ELEMENT, grey ? 0 : alpha ? 6 : 2, 0, 0, 0], 8);
    const sum = new Uint8Array(4);
    new DataView(sum.buffer).setUint32(0, sumOfParts(parts));
    // Rendering intent 1: relative colorimetric.
    const colour = profile
      ? chunk('iCCP', joined([PROFILE_NAME, zlibSync(profile)]))
      : chunk('sRGB', Uint8Array.of(1));
    const told = pngTexts(metadata).flatMap(([type, content]) => chunk(type, content));
    const before = [...chunk('IHDR', header), ...colour, ...told, ...chunk('IDAT', ZLIB_BEGINNING)];
    return {
      before: joined([Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a), ...before]),
      after: joined([...chunk('IDAT', sum), ...chunk('IEND', new Uint8Array(0))])
    };
  }
};

/** Rows, most significant byte first, each filtered by Paeth. */
function filtered(image: Rows, from: number, to: number): Uint8Array {
  const { width, samples, ...kind } = image;
  const length = width * finishedChannels(kind);
  const bytes = rowBytes(image);
  const out = new Uint8Array((to - from) * (bytes + 1));
  let [row, above] = [new Uint8Array(bytes), new Uint8Array(bytes)];
  if (from > 0) readRow(samples, (from - 1) * length, above);
  for (let y = from; y < to; y++) {
    readRow(samples, y * length, row);
    const at = (y - from) * (bytes + 1);
    filterPaeth(row, above, bytes / width, out.subarray(at, at + bytes + 1));
    [row, above] = [above, row];
  }
  return out;
}

function readRow(samples: Samples, from: number, row: Uint8Array): void {
  if (samples instanceof Uint8Array) return row.set(samples.subarray(from, from + row.length));
  for (let i = 0, at = from; i < row.length; i += 2, at++) {
    row[i] = samples[at] >> 8;
    row[i + 1] = samples[at];
  }
}
