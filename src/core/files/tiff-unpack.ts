import { inflateBands } from './deflate';
import { damaged, FileError, truncated } from './image';

/**
 * Undoes the compressions of TIFF 6.0 and its supplements: gives the first `length` bytes in bands of `band` bytes, the last
 * perhaps shorter, each to be used before the next is asked for. Throws where there are fewer.
 */
type Unpack = (
  packed: Uint8Array,
  length: number,
  band: number
) => Iterable<Uint8Array> | AsyncIterable<Uint8Array>;

function* bands(bytes: Uint8Array, length: number, band: number): Generator<Uint8Array> {
  for (let from = 0; from < length; from += band) yield bytes.subarray(from, Math.min(length, from + band));
}

const plain: Unpack = (packed, length, band) => {
  if (packed.length < length) throw truncated();
  return bands(packed, length, band);
};

const whole =
  (unpack: (packed: Uint8Array, length: number) => Uint8Array): Unpack =>
  (packed, length, band) =>
    bands(unpack(packed, length), length, band);

/** PackBits, section 9. */
const packBits = whole((packed, length) => {
  const out = new Uint8Array(length);
  let at = 0;
  for (let i = 0; at < length;) {
    if (i >= packed.length) throw truncated();
    const n = (packed[i++] << 24) >> 24;
    if (n >= 0) {
      out.set(packed.subarray(i, i + Math.min(n + 1, length - at)), at);
      i += n + 1;
      at += n + 1;
    } else if (n !== -128) {
      out.fill(packed[i++], at, at + 1 - n);
      at += 1 - n;
    }
  }
  return out;
});

const CLEAR = 256;
const END = 257;
const MOST_CODES = 4096;

/**
 * LZW, section 13: codes from the high bits, growing from 9 to 12 bits one code early. A string of the table is
 * kept as where it last stood in the output.
 */
const lzw = whole((packed, length) => {
  const out = new Uint8Array(length);
  const start = new Uint32Array(MOST_CODES);
  const size = new Uint16Array(MOST_CODES);
  let next = END + 1;
  let width = 9;
  let buffer = 0;
  let bits = 0;
  let at = 0;
  let i = 0;
  let previous = -1;
  while (at < length) {
    while (bits < width) {
      if (i >= packed.length) throw truncated();
      buffer = ((buffer << 8) | packed[i++]) & 0xffffff;
      bits += 8;
    }
    bits -= width;
    const code = (buffer >> bits) & ((1 << width) - 1);
    if (code === END) throw truncated();
    if (code === CLEAR) {
      next = END + 1;
      width = 9;
      previous = -1;
      continue;
    }
    const from = at;
    if (code < CLEAR) out[at++] = code;
    else {
      const known = code < next;
      if (!known && (code !== next || previous < 0)) throw damaged('its compressed data makes no sense');
      const source = known ? start[code] : previous;
      const count = known ? size[code] : from - previous + 1;
      for (let k = 0; k < count && at < length; k++) out[at++] = out[source + k];
    }
    if (previous >= 0 && next < MOST_CODES) {
      start[next] = previous;
      size[next] = from - previous + 1;
      next++;
      if (next + 1 === 1 << width && width < 12) width++;
    }
    previous = from;
  }
  return out;
});

const UNPACK: Record<number, Unpack> = {
  1: plain,
  5: lzw,
  8: inflateBands,
  32946: inflateBands,
  32773: packBits
};

/** @throws FileError naming the compression when it is none that is read */
export function unpacker(compression: number): Unpack {
  const unpack = UNPACK[compression];
  if (unpack) return unpack;
  throw new FileError(
    `Its compression (TIFF number ${compression}) can’t be read. Save it with LZW, ZIP or no compression.`
  );
}

/** The fewest bytes that `compression` can pack `length` bytes into. */
export function fewestPacked(compression: number, length: number): number {
  if (compression === 1) return length;
  if (compression === 32773) return length / 64;
  // A bit for the mean of 64 pixels (JPEG, T.81, F.1.2).
  if (compression === 7) return length / (4 * 8 * 64);
  return compression === 5 ? length / 2731 : length / 1032;
}
