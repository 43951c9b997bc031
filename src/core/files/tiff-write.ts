import type { Samples } from '../raster/frame';
import { joined } from './deflate';
import { finishedChannels, type FinishedImage } from './image';
import { exifInTiff } from './metadata/exif';
import { writeParts, type FileParts } from './parts';
import { greyProfile, srgbProfile } from './srgb-profile';
import { packPart, sumOfParts, ZLIB_BEGINNING } from './zlib';

const SHORT = 3;
const LONG = 4;
const BYTE = 1;
const UNDEFINED = 7;
/** A field of EXIF, whose value lies where it lay. */
const AS_IT_LIES = 0;
/** Bytes of one of each. */
const BYTES = { [SHORT]: 2, [LONG]: 4, [BYTE]: 1, [UNDEFINED]: 1, [AS_IT_LIES]: 0 };
type Field = [tag: number, type: number, values: readonly number[] | Uint8Array];

/** Of Adobe's TIFF 6.0 supplement of 2002, and section 14. */
const [NOT_PACKED, DEFLATE] = [1, 8];
const DIFFERENCES = 2;

/** Bytes of rows that are made together, about. */
const PART = 2 ** 21;

/** 16 bits are packed, where nothing else is said; of 8 it saves little, and floats are handed on as they lie in memory. */
const isPacked = ({ samples, compression }: FinishedImage): boolean =>
  samples instanceof Uint16Array && compression !== 'none';
const rowLength = ({ width, ...kind }: FinishedImage): number => width * finishedChannels(kind);
const rowsAPart = (image: FinishedImage): number =>
  Math.max(1, Math.floor(PART / (rowLength(image) * image.samples.BYTES_PER_ELEMENT)));

/** Each sample less the one before it of its channel, row by row (section 14); the first of a row as it is. */
function differences(samples: Uint16Array, length: number, channels: number): Uint8Array {
  const out = new Uint16Array(samples);
  for (let end = out.length; end > 0; end -= length)
    for (let i = end - 1; i >= end - length + channels; i--) out[i] -= out[i - channels];
  return new Uint8Array(out.buffer);
}

/**
 * TIFF 6.0, little endian: 8 or 16-bit integers or 32-bit floats by the samples' type, with their profile; one plane of greys with
 * that of their curve, and with what is told of the picture: the file begins with its EXIF block, so that all of it stays where it lay. 16 bits
 * are deflated, unless the image says `none`, in strips that are made side by side; the others lie in one strip, as they are.
 */
export const tiffParts: FileParts<{ readonly bytes: Uint8Array }> = {
  count: (image) => Math.ceil(image.height / rowsAPart(image)),
  async part(image, index) {
    const [length, rows] = [rowLength(image), rowsAPart(image)];
    const samples: Samples = image.samples.subarray(index * rows * length, (index + 1) * rows * length);
    if (!(samples instanceof Uint16Array && isPacked(image)))
      return { bytes: new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength).slice() };
    const packed = await packPart(differences(samples, length, finishedChannels(image)), true);
    const sum = new Uint8Array(4);
    new DataView(sum.buffer).setUint32(0, sumOfParts([packed]));
    return { bytes: joined([ZLIB_BEGINNING, packed.bytes, sum]) };
  },
  around(image, parts) {
    const sizes = parts.map(({ bytes }) => bytes.length);
    const before = beginning(image, isPacked(image) ? sizes : [sizes.reduce((sum, size) => sum + size, 0)]);
    return { before, after: new Uint8Array(0) };
  }
};

/** The file of all its parts. @throws RangeError for more than 4 GB */
export const writeTiff = (image: FinishedImage, onProgress?: (part: number) => void): Promise<Uint8Array> =>
  writeParts(tiffParts, image, onProgress);

/** Bytes as numbers of four, filled up with zeros: what IPTC stands in by custom. */
function wholeWords(bytes: Uint8Array): number[] {
  const filled = new Uint8Array(Math.ceil(bytes.length / 4) * 4);
  filled.set(bytes);
  const view = new DataView(filled.buffer);
  return Array.from({ length: filled.length / 4 }, (_, i) => view.getUint32(4 * i, true));
}

/** Header and directory of a file whose strips of so many bytes follow. @throws RangeError for more than 4 GB */
function beginning(image: FinishedImage, strips: readonly number[]): Uint8Array {
  const { width, height, alpha, grey, encoding = 'coded', samples } = image;
  const profile = image.profile ?? (grey ? greyProfile(encoding) : srgbProfile(encoding));
  const channels = finishedChannels({ alpha, grey });
  const bits = samples.BYTES_PER_ELEMENT * 8;
  const float = samples instanceof Float32Array;
  const packed = isPacked(image);
  const offsets = [...strips];
  const { exif, iptc, xmp } = image.metadata ?? {};
  const held = exif && exifInTiff(exif);
  const fields: Field[] = [
    [256, LONG, [width]],
    [257, LONG, [height]],
    [258, SHORT, Array<number>(channels).fill(bits)],
    [259, SHORT, [packed ? DEFLATE : NOT_PACKED]],
    [262, SHORT, [grey ? 1 : 2]],
    [273, LONG, offsets],
    [274, SHORT, [1]],
    [277, SHORT, [channels]],
    [278, LONG, [packed ? rowsAPart(image) : height]],
    [279, LONG, strips],
    [284, SHORT, [1]],
    ...(packed ? [[317, SHORT, [DIFFERENCES]] as Field] : []),
    ...(alpha && !grey ? [[338, SHORT, [2]] as Field] : []),
    [339, SHORT, Array<number>(channels).fill(float ? 3 : 1)],
    ...(xmp ? [[700, BYTE, xmp] as Field] : []),
    ...(iptc ? [[33723, LONG, wholeWords(iptc)] as Field] : []),
    [34675, UNDEFINED, profile]
  ];
  const own = new Set(fields.map(([tag]) => tag));
  for (const [tag, field] of held?.fields ?? []) if (!own.has(tag)) fields.push([tag, AS_IT_LIES, field]);
  fields.sort(([a], [b]) => a - b);
  const sizeOf = (type: number, values: { length: number }): number => BYTES[type as 3] * values.length;
  const before = held?.beginning ?? new Uint8Array(8);
  const directory = before.length + (before.length & 1);
  let extra = directory + 2 + 12 * fields.length + 4;
  const outside = fields.reduce(
    (sum, [, type, values]) => sum + (sizeOf(type, values) > 4 ? sizeOf(type, values) + 1 : 0),
    0
  );
  const start = Math.ceil((extra + outside) / 16) * 16;
  let end = start;
  strips.forEach((size, i) => {
    offsets[i] = end;
    end += size;
  });
  if (end > 2 ** 32 - 1) throw new RangeError('A TIFF holds at most 4 GB.');
  const out = new Uint8Array(start);
  const view = new DataView(out.buffer);
  out.set(before);
  out.set([0x49, 0x49, 42, 0]);
  view.setUint32(4, directory, true);
  view.setUint16(directory, fields.length, true);
  fields.forEach(([tag, type, values], i) => {
    const at = directory + 2 + 12 * i;
    if (type === AS_IT_LIES) return out.set(values, at);
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, values.length, true);
    let to = at + 8;
    if (sizeOf(type, values) > 4) {
      view.setUint32(to, extra, true);
      to = extra;
      extra += sizeOf(type, values) + (sizeOf(type, values) & 1);
    }
    values.forEach((v: number, k: number) => {
      if (type === SHORT) view.setUint16(to + 2 * k, v, true);
      else if (type === LONG) view.setUint32(to + 4 * k, v, true);
      else view.setUint8(to + k, v);
    });
  });
  return out;
}
