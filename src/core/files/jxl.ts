import { rgbaOf, writer } from './codec';
import { joined } from './deflate';
import { latin } from './latin';
import type { Metadata } from './metadata';
import { box, boxedExif, boxes, exifOfBox } from './boxes';
import { sharedSamples } from '../raster/frame';
import {
  channelsOf,
  checkSize,
  damaged,
  FileError,
  truncated,
  type DecodedImage,
  type FinishedImage
} from './image';
import { CICP_UNKNOWN } from './png-colour';
import { readPng } from './png-read';
import { once, partOf, wasmModule, WHAT } from './wasm';

/** JPEG XL (ISO/IEC 18181): read with up to 16 bits in the space that it says, written as 8 bits of sRGB. */
const SIGNATURE = Uint8Array.of(0, 0, 0, 12, 0x4a, 0x58, 0x4c, 0x20, 0x0d, 0x0a, 0x87, 0x0a);
const isCodestream = (bytes: Uint8Array): boolean => bytes[0] === 0xff && bytes[1] === 0x0a;
export const isJxl = (bytes: Uint8Array): boolean =>
  isCodestream(bytes) || SIGNATURE.every((v, i) => bytes[i] === v);

/** Where the codestream begins. @throws FileError */
function codestreamOf(bytes: Uint8Array): Uint8Array {
  if (isCodestream(bytes)) return bytes;
  for (const { type, content } of boxes(bytes, 0, bytes.length)) {
    if (type === 'jxlc') return content;
    // Four bytes say which part it is.
    if (type === 'jxlp') return content.subarray(4);
  }
  throw truncated();
}

const PACKED =
  'What it tells of the picture (EXIF, XMP) is packed in a way that is not read here, and was left behind.';

/** What boxes beside the codestream tell. @param notices is told of packed ones @throws FileError */
export function jxlMetadata(bytes: Uint8Array, notices: string[]): Metadata {
  const found: { exif?: Uint8Array; xmp?: Uint8Array } = {};
  if (isCodestream(bytes)) return found;
  for (const { type, content } of boxes(bytes, 0, bytes.length)) {
    if (type === 'Exif') found.exif ??= exifOfBox(content);
    else if (type === 'xml ') found.xmp ??= content;
    else if (type === 'brob' && ['Exif', 'xml '].includes(latin(content.subarray(0, 4)))) {
      if (!notices.includes(PACKED)) notices.push(PACKED);
    }
  }
  return found;
}

/** Ratios of width to height (ISO/IEC 18181-1, annex D.2). */
const RATIOS = [0, 1, 12 / 10, 4 / 3, 3 / 2, 16 / 9, 5 / 4, 2];

interface Header {
  readonly width: number;
  readonly height: number;
  /** Its samples are floats. */
  readonly floats: boolean;
}

/** What the header of the codestream says (ISO/IEC 18181-1, annex D). @throws FileError */
function readHeader(bytes: Uint8Array): Header {
  let at = 16;
  const bits = (count: number): number => {
    if (at + count > 8 * bytes.length) throw truncated();
    let value = 0;
    for (let i = 0; i < count; i++, at++) value += ((bytes[at >> 3] >> (at & 7)) & 1) * 2 ** i;
    return value;
  };
  const size = (): Pick<Header, 'width' | 'height'> => {
    const small = bits(1) === 1;
    const side = (): number => (small ? 8 * (bits(5) + 1) : bits([9, 13, 18, 30][bits(2)]) + 1);
    const height = side();
    const ratio = bits(3);
    return { height, width: ratio === 0 ? side() : Math.floor(height * RATIOS[ratio] + 1e-9) };
  };
  const { width, height } = size();
  const plain = bits(1) === 1;
  if (plain) return { width, height, floats: false };
  if (bits(1) === 1) {
    // How it is turned, and its size as it is meant to be seen.
    bits(3);
    if (bits(1) === 1) size();
    // What stands behind a preview or the times of a film is not looked at.
    if (bits(1) === 1 || bits(1) === 1) return { width, height, floats: false };
  }
  return { width, height, floats: bits(1) === 1 };
}

const glue = partOf(WHAT['jxl-decode'], () => import('jxl-oxide-wasm'));
const load = once(async () => {
  const [module, { initSync, JxlImage }] = await Promise.all([wasmModule('jxl-decode'), glue()]);
  initSync({ module });
  return JxlImage;
});

const FLOATS = 'Its floats are read as 16 bits: what lies outside 0…1 is lost.';
const FILM = 'It is a film: its first picture was read.';
const BROUGHT =
  'Its values are of a kind that shows more light than a screen (HDR); they were brought into sRGB.';

interface Shown {
  readonly png: Uint8Array;
  readonly film: boolean;
}

/** The first picture as a PNG of 8 or 16 bits. @param plainly brought into sRGB @throws FileError */
async function shown(bytes: Uint8Array, { width, height }: Header, plainly: boolean): Promise<Shown> {
  const JxlImage = await load();
  const image = new JxlImage();
  try {
    image.forceSrgb = plainly;
    image.feedBytes(bytes);
    if (!image.tryInit() || !image.loaded) throw truncated();
    const sides = (w = 0, h = 0): string => `${Math.min(w, h)} ${Math.max(w, h)}`;
    if (sides(image.width, image.height) !== sides(width, height)) throw damaged('it holds two sizes');
    return { png: image.render().encodeToPng(), film: image.animated === true };
  } catch (error) {
    if (error instanceof RangeError || error instanceof FileError) throw error;
    // The codec's own words are not for a person.
    throw damaged('its compressed data makes no sense');
  } finally {
    image.free();
  }
}

/** @throws FileError */
export async function readJxl(bytes: Uint8Array): Promise<DecodedImage> {
  const header = readHeader(codestreamOf(bytes));
  checkSize(header.width, header.height);
  const { png, film } = await shown(bytes, header, false);
  const notices = [...(header.floats ? [FLOATS] : []), ...(film ? [FILM] : [])];
  const read = await readPng(png);
  if (!read.notices.includes(CICP_UNKNOWN)) return { ...withoutOpaque(read), notices };
  const plain = await readPng((await shown(bytes, header, true)).png);
  return { ...withoutOpaque(plain), notices: [...notices, BROUGHT] };
}

/** Some programs write alpha with every picture. */
function withoutOpaque(image: DecodedImage): DecodedImage {
  const { samples, alpha, width, height } = image;
  if (!alpha) return image;
  const channels = channelsOf(image);
  const most = samples instanceof Uint8Array ? 255 : 65535;
  for (let i = channels - 1; i < samples.length; i += channels) if (samples[i] !== most) return image;
  const out = sharedSamples(image.sampleType, width * height * (channels - 1));
  for (let i = 0, at = 0; at < out.length; i += channels)
    for (let c = 0; c < channels - 1; c++) out[at++] = samples[i + c];
  return { ...image, alpha: false, samples: out };
}

const encode = writer('jxl-encode', () => import('@jsquash/jxl/codec/enc/jxl_enc.js'));

/** A JPEG XL of 8 bits, with what is told of it but IPTC, which it has no place for. @param quality 1…100; nothing is lost at 100 */
export async function writeJxl(image: FinishedImage, quality: number): Promise<Uint8Array> {
  const file = await encode(rgbaOf(image), image, {
    ...{ effort: 4, quality, progressive: false, epf: -1, lossyPalette: false, decodingSpeedTier: 0 },
    ...{ photonNoiseIso: 0, lossyModular: false, lossless: quality === 100 }
  });
  const { exif, xmp } = image.metadata ?? {};
  if (!exif && !xmp) return file;
  const told = [...(exif ? [box('Exif', boxedExif(exif))] : []), ...(xmp ? [box('xml ', xmp)] : [])];
  if (!isCodestream(file)) return joined([file, ...told]);
  const ftyp = box('ftyp', new TextEncoder().encode('jxl \0\0\0\0jxl '));
  return joined([SIGNATURE, ftyp, ...told, box('jxlc', file)]);
}
