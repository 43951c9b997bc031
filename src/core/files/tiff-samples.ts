import type { Samples, SampleType } from '../raster/frame';
import { FileError } from './image';

/** How samples lie in a TIFF (6.0, sections 8 and 14; Technical Note 3). */
export interface StoredSamples {
  /** Bits of one. */
  readonly depth: number;
  /** 1 unsigned integers, 3 floats (tag SampleFormat). */
  readonly format: number;
  readonly predictor: number;
  readonly littleEndian: boolean;
  /** What they become. */
  readonly type: SampleType;
}

const UNSIGNED = 1;
const FLOATS = 3;
/** Depths that are read as they lie. */
const PLAIN: Record<string, SampleType> = { '1/8': 'u8', '1/16': 'u16', '3/32': 'f32' };
/** Depths that become 32-bit floats; integers as parts of their largest. */
const WIDE = ['1/32', '3/16', '3/64'];

/** What samples of a format and depth become. @throws FileError where they can't be read */
function typeOf(format: number, depth: number): SampleType {
  const kind = `${format}/${depth}`;
  const plain = PLAIN[kind] ?? (WIDE.includes(kind) ? 'f32' : undefined);
  if (plain) return plain;
  if (format === UNSIGNED && depth >= 1 && depth <= 16) return depth < 8 ? 'u8' : 'u16';
  const what = { 1: 'integers', 2: 'signed integers', 3: 'floats' }[format] ?? 'samples';
  throw new FileError(
    `Its ${depth}-bit ${what} can’t be read. Save it as 8 or 16-bit integers or 32-bit floats.`
  );
}

/** @throws FileError where such samples, or their predictor, can't be read */
export function storedSamples(of: Omit<StoredSamples, 'type'>): StoredSamples {
  const { format, depth, predictor } = of;
  const type = typeOf(format, depth);
  const known =
    predictor === 1 ||
    (predictor === 2 && format === UNSIGNED && [8, 16, 32].includes(depth)) ||
    (predictor === 3 && format === FLOATS);
  if (!known)
    throw new FileError(`Its predictor (TIFF number ${predictor}) can’t be read. Save it without one.`);
  return { ...of, type };
}

/** Bytes of a row, which begins with a byte of its own. */
export const bytesOfRow = ({ depth }: Pick<StoredSamples, 'depth'>, samples: number): number =>
  Math.ceil((samples * depth) / 8);

/**
 * Makes stored rows samples of this machine, predictors undone; what it gives is to be used before it is asked again.
 * @param rowLength samples of a row @param across samples of a pixel
 */
export function nativeSamples(
  rowLength: number,
  across: number,
  stored: StoredSamples
): (raw: Uint8Array) => Samples {
  const { depth, format, predictor } = stored;
  if (depth % 8 !== 0) return (raw) => unpackedBits(raw, rowLength, depth);
  if (predictor === 3) return (raw) => floats(bytesTogether(raw, rowLength, across, depth / 8), depth);
  // One place for all rows: to have new memory of the system each time takes longer than to fill it.
  let room = new Uint8Array(0);
  return (raw) => {
    if (room.length < raw.length) room = new Uint8Array(raw.length);
    const native = swapped(raw, stored, room.subarray(0, raw.length));
    if (format === FLOATS) return floats(native, depth);
    if (depth === 8) return summed(native, rowLength, across, predictor);
    if (depth === 16) return summed(seenAs(Uint16Array, native), rowLength, across, predictor);
    const wide = summed(seenAs(Uint32Array, native), rowLength, across, predictor);
    return Float32Array.from(wide, (v) => v / (2 ** 32 - 1));
  };
}

type Bytes = Uint8Array<ArrayBuffer>;
interface ArrayOf<T> {
  new (buffer: ArrayBuffer, at: number, length: number): T;
  readonly BYTES_PER_ELEMENT: number;
}

/** The same memory as numbers of several bytes. */
const seenAs = <T>(Kind: ArrayOf<T>, { buffer, byteOffset, length }: Bytes): T =>
  new Kind(buffer, byteOffset, length / Kind.BYTES_PER_ELEMENT);

/** Predictor 2: what is stored is the difference from the pixel before. */
function summed<T extends Uint8Array | Uint16Array | Uint32Array>(
  samples: T,
  rowLength: number,
  across: number,
  predictor: number
): T {
  if (predictor === 2)
    for (let row = 0; row < samples.length; row += rowLength)
      for (let i = row + across; i < row + rowLength; i++) samples[i] += samples[i - across];
  return samples;
}

/** A copy in this machine's order of bytes, into `copy`. */
function swapped(raw: Uint8Array, { depth, littleEndian }: StoredSamples, copy: Bytes): Bytes {
  const bytes = depth / 8;
  copy.set(raw);
  if (littleEndian || bytes === 1) return copy;
  if (bytes === 2) {
    const pairs = seenAs(Uint16Array, copy);
    for (let i = 0; i < pairs.length; i++) pairs[i] = (pairs[i] << 8) | (pairs[i] >>> 8);
  } else for (let i = 0; i < copy.length; i += bytes) copy.subarray(i, i + bytes).reverse();
  return copy;
}

/** Predictor 3: bytes differenced along a row that holds all high bytes first. In this machine's order. */
function bytesTogether(raw: Uint8Array, rowLength: number, across: number, bytes: number): Bytes {
  const out = new Uint8Array(raw.length);
  const rowBytes = rowLength * bytes;
  for (let start = 0; start < raw.length; start += rowBytes) {
    const row = raw.slice(start, start + rowBytes);
    for (let i = across; i < rowBytes; i++) row[i] += row[i - across];
    for (let i = 0; i < rowLength; i++)
      for (let b = 0; b < bytes; b++) out[start + bytes * i + bytes - 1 - b] = row[i + b * rowLength];
  }
  return out;
}

function floats(native: Bytes, depth: number): Float32Array {
  if (depth === 32) return seenAs(Float32Array, native);
  if (depth === 64) return Float32Array.from(seenAs(Float64Array, native));
  return Float32Array.from(seenAs(Uint16Array, native), half);
}

/** IEEE 754 binary16. */
function half(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >> 10) & 31;
  const fraction = bits & 1023;
  if (exponent === 0) return sign * fraction * 2 ** -24;
  if (exponent === 31) return fraction ? Number.NaN : sign * Infinity;
  return sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
}

/** Samples that lie bit on bit, the highest first; each row begins with a byte of its own. As they are, not scaled. */
function unpackedBits(raw: Uint8Array, rowLength: number, depth: number): Uint8Array | Uint16Array {
  const rowBytes = bytesOfRow({ depth }, rowLength);
  const rows = raw.length / rowBytes;
  const out = depth < 8 ? new Uint8Array(rows * rowLength) : new Uint16Array(rows * rowLength);
  for (let row = 0, at = 0; row < rows; row++) {
    let [held, bits, byte] = [0, 0, row * rowBytes];
    for (let i = 0; i < rowLength; i++) {
      while (bits < depth) {
        held = ((held << 8) | raw[byte++]) & 0xffffff;
        bits += 8;
      }
      bits -= depth;
      out[at++] = (held >> bits) & ((1 << depth) - 1);
    }
  }
  return out;
}

/** Whether samples do not reach to the end of their type, and have to be spread over it. */
export const isPartial = ({ depth, format }: StoredSamples): boolean =>
  format === UNSIGNED && depth < 16 && depth !== 8;

/** Spreads them in place: the largest of their depth becomes the largest of their type. */
export function spread(samples: Samples, { depth }: StoredSamples): void {
  const scale = (depth < 8 ? 255 : 65535) / (2 ** depth - 1);
  for (let i = 0; i < samples.length; i++) samples[i] = Math.round(samples[i] * scale);
}
