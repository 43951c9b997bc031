import { sharedSamples, type Samples } from '../raster/frame';
import { crc32 } from './crc';
import { inflate, inflateAll } from './deflate';
import { checkSize, damaged, PROFILE_DAMAGED, truncated, type DecodedImage } from './image';
import { exifOrientation } from './orientation';
import { colourProfile, type PngColour } from './png-colour';
import { unfilter } from './png-filter';

/** PNG (W3C Portable Network Graphics, third edition): every colour type, 1 to 16 bit, interlaced or not. */
const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
const GREY = 0;
const COLOUR = 2;
const PALETTE = 3;
const GREY_ALPHA = 4;
const COLOUR_ALPHA = 6;
const DEPTHS: Record<number, number[]> = {
  [GREY]: [1, 2, 4, 8, 16],
  [COLOUR]: [8, 16],
  [PALETTE]: [1, 2, 4, 8],
  [GREY_ALPHA]: [8, 16],
  [COLOUR_ALPHA]: [8, 16]
};
const STORED: Record<number, number> = {
  [GREY]: 1,
  [COLOUR]: 3,
  [PALETTE]: 1,
  [GREY_ALPHA]: 2,
  [COLOUR_ALPHA]: 4
};
/** Deflate can't shrink by more than this (RFC 1951: 258 bytes from two bits). */
const MOST_SHRUNK = 1032;
const MOST_PROFILE = 2 ** 24;
/** A file may have this many parts, and one more for each `PART` bytes: parts that hold next to nothing are no picture. */
const MOST_SMALL_PARTS = 10_000;
const PART = 1024;

export const isPng = (bytes: Uint8Array): boolean => SIGNATURE.every((b, i) => bytes[i] === b);

interface Header {
  width: number;
  height: number;
  depth: number;
  type: number;
  interlaced: boolean;
}

type Mutable<T> = { -readonly [K in keyof T]: T[K] };

interface Chunks {
  header: Header;
  palette: Uint8Array | null;
  transparency: Uint8Array | null;
  profile: Uint8Array | null;
  exif: Uint8Array | null;
  colour: PngColour;
  data: Uint8Array[];
}

/** @throws FileError */
export async function readPng(bytes: Uint8Array): Promise<DecodedImage> {
  const { header, palette, transparency, profile, exif, colour, data } = readChunks(bytes);
  const { width, height, depth, type } = header;
  const alpha = type === GREY_ALPHA || type === COLOUR_ALPHA || transparency !== null;
  const layout = type === GREY || type === GREY_ALPHA ? 'grey' : 'rgb';
  const colours = layout === 'grey' ? 1 : 3;
  const packed = data.reduce((sum, part) => sum + part.length, 0);
  if ((width * height * STORED[type] * depth) / 8 > packed * MOST_SHRUNK) {
    throw damaged(`it claims ${width}×${height} pixels, more than its ${packed} bytes can hold`);
  }
  if (type === PALETTE && !palette) throw damaged('its palette is missing');
  const sampleType = depth === 16 ? 'u16' : 'u8';
  const samples = sharedSamples(sampleType, width * height * (colours + (alpha ? 1 : 0)));
  const expand = expander(header, palette, transparency, samples);
  await readRows(header, data, expand);
  const notices: string[] = [];
  return {
    width,
    height,
    layout,
    alpha,
    sampleType,
    samples,
    notices,
    profile: colourProfile(
      colour,
      profile && (await profileOf(profile, notices)),
      layout === 'grey',
      notices
    ),
    orientation: exif ? await exifOrientation(exif) : 1
  };
}

async function profileOf(chunk: Uint8Array, notices: string[]): Promise<Uint8Array | null> {
  try {
    return await inflateAll(chunk.subarray(chunk.indexOf(0) + 2), MOST_PROFILE);
  } catch {
    notices.push(PROFILE_DAMAGED);
    return null;
  }
}

function readChunks(bytes: Uint8Array): Chunks {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const found: Partial<Chunks> & { data: Uint8Array[] } = { data: [] };
  const colour = { cicp: null, srgb: false, gamma: null, chromaticities: null } as Mutable<PngColour>;
  let count = 0;
  for (let at = 8; ;) {
    if (at + 12 > bytes.length) throw truncated();
    if (++count > MOST_SMALL_PARTS + at / PART) throw damaged('it is cut into far too many parts');
    const length = view.getUint32(at);
    const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    if (!/^[A-Za-z]{4}$/.test(type)) throw damaged('a part of it has no name');
    if (at + 12 + length > bytes.length) throw truncated();
    const content = bytes.subarray(at + 8, at + 8 + length);
    // The picture data carry a check sum of their own, which inflate looks at.
    const sound =
      type === 'IDAT' || crc32(bytes.subarray(at + 4, at + 8 + length)) === view.getUint32(at + 8 + length);
    const critical = type[0] === type[0].toUpperCase();
    if (!sound && critical) throw damaged(`the check sum of its part ${type} is wrong`);
    if (!found.header && type !== 'IHDR') throw damaged('it does not begin with its header');
    if (type === 'IEND') break;
    if (type === 'IHDR') found.header = readHeader(content);
    else if (type === 'PLTE') found.palette = content;
    else if (type === 'IDAT') found.data.push(content);
    else if (type === 'tRNS' && sound) found.transparency = content;
    else if (type === 'iCCP' && sound) found.profile = content;
    else if (type === 'eXIf' && sound) found.exif = content;
    else if (type === 'cICP' && sound) colour.cicp = content;
    else if (type === 'sRGB' && sound) colour.srgb = true;
    else if (type === 'gAMA' && sound) colour.gamma = content;
    else if (type === 'cHRM' && sound) colour.chromaticities = content;
    else if (critical) throw damaged(`its part ${type} is unknown`);
    at += 12 + length;
  }
  if (!found.header || found.data.length === 0) throw damaged('it holds no picture data');
  return {
    palette: null,
    transparency: null,
    profile: null,
    exif: null,
    ...found,
    colour,
    header: found.header
  };
}

function readHeader(content: Uint8Array): Header {
  if (content.length !== 13) throw damaged('its header has the wrong length');
  const view = new DataView(content.buffer, content.byteOffset, 13);
  const width = view.getUint32(0);
  const height = view.getUint32(4);
  const [depth, type, compression, filter, interlace] = content.subarray(8);
  if (!DEPTHS[type]?.includes(depth))
    throw damaged(`its header asks for ${depth} bits in colour type ${type}`);
  if (compression !== 0 || filter !== 0 || interlace > 1)
    throw damaged('its header asks for an unknown method');
  checkSize(width, height);
  return { width, height, depth, type, interlaced: interlace === 1 };
}

/** Adam7: first column and row, step in x and y. */
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2]
];

/** Takes one unfiltered row: `count` pixels that begin at (x, y) and lie `step` apart. */
type Expand = (row: Uint8Array, count: number, x: number, y: number, step: number) => void;

/** A row whose bytes behind the first begin at a whole word. */
const newRow = (length: number): Uint8Array => new Uint8Array(length + 3).subarray(3);

async function readRows(header: Header, data: Uint8Array[], expand: Expand): Promise<void> {
  const { width, height, depth, type, interlaced } = header;
  const bits = STORED[type] * depth;
  const pixelBytes = Math.max(1, bits >> 3);
  const stream = inflate(data);
  let chunk: Uint8Array = new Uint8Array(0);
  let used = 0;
  for (const [x0, y0, dx, dy] of interlaced ? PASSES : [[0, 0, 1, 1]]) {
    const count = Math.ceil((width - x0) / dx);
    if (count <= 0) continue;
    const length = Math.ceil((count * bits) / 8) + 1;
    let row = newRow(length);
    let above = newRow(length);
    for (let y = y0; y < height; y += dy) {
      for (let filled = 0; filled < length;) {
        if (used === chunk.length) {
          const next = await stream.next();
          if (next.done) throw truncated();
          chunk = next.value;
          used = 0;
        }
        const part = chunk.subarray(used, used + length - filled);
        row.set(part, filled);
        filled += part.length;
        used += part.length;
      }
      if (row[0] > 4) throw damaged('a row has an unknown filter');
      unfilter(row, above, pixelBytes);
      expand(row, count, x0, y, dx);
      [row, above] = [above, row];
    }
  }
  await stream.return(undefined);
}

function expander(
  { width, depth, type }: Header,
  palette: Uint8Array | null,
  transparency: Uint8Array | null,
  out: Samples
): Expand {
  const stored = STORED[type];
  const key = type === GREY || type === COLOUR ? transparentColour(transparency, stored) : null;
  const channels = stored + (key ? 1 : 0);
  if (type === PALETTE) return paletteExpander(width, depth, palette!, transparency, out);
  const full = depth === 16 ? 65535 : 255;
  const scale = depth < 8 ? 255 / (2 ** depth - 1) : 1;
  if (!key && depth >= 8) return plainExpander(width, depth, channels, out);
  return (row, count, x, y, step) => {
    let at = (y * width + x) * channels;
    const stride = (step - 1) * channels;
    for (let i = 0; i < count; i++, at += stride) {
      let matches = key !== null;
      for (let c = 0; c < stored; c++) {
        const v = sampleAt(row, i * stored + c, depth);
        if (key && v !== key[c]) matches = false;
        out[at++] = v * scale;
      }
      if (key) out[at++] = matches ? 0 : full;
    }
  };
}

/** Whole bytes or pairs of bytes, nothing to look up. */
function plainExpander(width: number, depth: number, channels: number, out: Samples): Expand {
  const words = new Uint32Array(Math.ceil((width * channels) / 2));
  return (row, count, x, y, step) => {
    const at = (y * width + x) * channels;
    const length = count * channels;
    if (step === 1 && depth === 8) out.set(row.subarray(1, 1 + length), at);
    else if (step === 1) {
      swapPairs(row, words);
      out.set(new Uint16Array(words.buffer, 0, length), at);
    } else {
      for (let i = 0; i < length; i++) {
        const to = at + Math.floor(i / channels) * step * channels + (i % channels);
        out[to] = depth === 8 ? row[1 + i] : (row[1 + 2 * i] << 8) | row[2 + 2 * i];
      }
    }
  };
}

/** The pairs of bytes of a row, the high one first, as pairs of 16-bit numbers (of a machine whose low byte is first). */
function swapPairs(row: Uint8Array, out: Uint32Array): void {
  const bytes = row.length - 1;
  const whole = bytes >> 2;
  const words = new Uint32Array(row.buffer, row.byteOffset + 1, whole);
  for (let i = 0; i < whole; i++) {
    const pair = words[i];
    out[i] = ((pair & 0xff00ff) << 8) | ((pair >>> 8) & 0xff00ff);
  }
  if (bytes & 2) out[whole] = (row[bytes - 1] << 8) | row[bytes];
}

/** Sample `index` of a filtered row, whose first byte names the filter. */
function sampleAt(row: Uint8Array, index: number, depth: number): number {
  if (depth === 8) return row[1 + index];
  if (depth === 16) return (row[1 + 2 * index] << 8) | row[2 + 2 * index];
  const bit = index * depth;
  return (row[1 + (bit >> 3)] >> (8 - depth - (bit & 7))) & (2 ** depth - 1);
}

function transparentColour(chunk: Uint8Array | null, stored: number): number[] | null {
  if (!chunk) return null;
  if (chunk.length < 2 * stored) throw damaged('its transparent colour is cut off');
  return Array.from({ length: stored }, (_, c) => (chunk[2 * c] << 8) | chunk[2 * c + 1]);
}

function paletteExpander(
  width: number,
  depth: number,
  palette: Uint8Array,
  transparency: Uint8Array | null,
  out: Samples
): Expand {
  if (palette.length % 3 !== 0) throw damaged('its palette has the wrong length');
  const channels = transparency ? 4 : 3;
  return (row, count, x, y, step) => {
    let at = (y * width + x) * channels;
    for (let i = 0; i < count; i++, at += step * channels) {
      const entry = sampleAt(row, i, depth);
      if (3 * entry >= palette.length) throw damaged('a pixel has a colour that its palette lacks');
      for (let c = 0; c < 3; c++) out[at + c] = palette[3 * entry + c];
      if (transparency) out[at + 3] = transparency[entry] ?? 255;
    }
  };
}
