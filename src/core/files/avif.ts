import type { SpaceId } from '../colour/output';
import { reader, rgbaOf, samplesOf, writer } from './codec';
import { checkSize, damaged, truncated, type DecodedImage, type FinishedImage } from './image';
import { CICP_UNKNOWN, cicpProfile } from './png-colour';

/** AVIF (ISO/IEC 14496-12 and 23008-12, AV1 in HEIF): still pictures of 8, 10 and 12 bits. */
const latin = (bytes: Uint8Array): string => String.fromCharCode(...bytes);

const BRANDS = ['avif', 'avis'];
export const isAvif = (bytes: Uint8Array): boolean => {
  if (latin(bytes.subarray(4, 8)) !== 'ftyp') return false;
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0);
  const brands = latin(bytes.subarray(8, Math.min(length, 256)));
  return BRANDS.some((brand) => brands.includes(brand));
};

interface Box {
  readonly type: string;
  /** Where its content begins. */
  readonly at: number;
  readonly content: Uint8Array;
}

/** The boxes of a content, one after another. @throws FileError */
function* boxes(bytes: Uint8Array, from: number, to: number): Generator<Box> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = from; at + 8 <= to;) {
    const type = latin(bytes.subarray(at + 4, at + 8));
    let [length, head] = [view.getUint32(at), 8];
    if (length === 1) {
      if (at + 16 > to) throw truncated();
      [length, head] = [Number(view.getBigUint64(at + 8)), 16];
    } else if (length === 0) length = to - at;
    if (length < head) throw damaged('one of its parts has no length');
    if (at + length > to) throw truncated();
    yield { type, at: at + head, content: bytes.subarray(at + head, at + length) };
    at += length;
  }
}

const within = (bytes: Uint8Array, { at, content }: Box, skip = 0): Box[] => [
  ...boxes(bytes, at + skip, at + content.length)
];

interface Header {
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly alpha: boolean;
  readonly orientation: number;
  readonly profile: Uint8Array | null;
  readonly notices: readonly string[];
  /** Where the numbers of its colours stand; null where it has none. */
  readonly numbers: number | null;
}

/** Turns anticlockwise and then a mirror (ISO/IEC 23008-12, 6.5.10 and 6.5.12) as one of EXIF's eight. */
function orientationOf(turns: number, mirror: number | null): number {
  const turned = [1, 8, 3, 6][turns];
  if (mirror === null) return turned;
  // Axis 0 swaps top and bottom, axis 1 left and right.
  const table = mirror === 0 ? { 1: 4, 8: 5, 3: 2, 6: 7 } : { 1: 2, 8: 7, 3: 4, 6: 5 };
  return table[turned as 1];
}

/** @throws FileError */
function readHeader(bytes: Uint8Array): Header {
  const meta = [...boxes(bytes, 0, bytes.length)].find(({ type }) => type === 'meta');
  const properties = meta && within(bytes, meta, 4).find(({ type }) => type === 'iprp');
  const container = properties && within(bytes, properties).find(({ type }) => type === 'ipco');
  if (!container) throw damaged('it holds no picture header');
  const all = within(bytes, container);
  const [size, config] = ['ispe', 'av1C'].map((type) => all.find((box) => box.type === type)?.content);
  if (!size || size.length < 12 || !config || config.length < 4) throw damaged('it holds no picture header');
  const view = new DataView(size.buffer, size.byteOffset, size.length);
  const colours = all.filter(({ type }) => type === 'colr');
  const kind = ({ content }: Box): string => latin(content.subarray(0, 4));
  const icc = colours.find((box) => ['prof', 'rICC'].includes(kind(box)));
  const numbers = colours.find((box) => kind(box) === 'nclx' && box.content.length >= 10);
  const notices: string[] = [];
  let profile: Uint8Array | null = icc?.content.slice(4) ?? null;
  if (!profile && numbers) {
    const [primaries, transfer] = [4, 6].map((i) => (numbers.content[i] << 8) | numbers.content[i + 1]);
    const unspecified = primaries === 2 && transfer === 2;
    const found = unspecified ? null : cicpProfile(primaries, transfer, false);
    if (found === undefined) notices.push(CICP_UNKNOWN);
    profile = found ?? null;
  }
  const [turn, mirror] = ['irot', 'imir'].map((type) => all.find((box) => box.type === type)?.content[0]);
  const deep = (config[2] & 0x40) !== 0;
  return {
    ...{ width: view.getUint32(4), height: view.getUint32(8), profile, notices },
    bits: deep ? ((config[2] & 0x20) !== 0 ? 12 : 10) : 8,
    alpha: all.some(({ type, content }) => type === 'auxC' && latin(content).includes('alpha')),
    orientation: orientationOf((turn ?? 0) & 3, mirror === undefined ? null : mirror & 1),
    numbers: numbers ? numbers.at + 4 : null
  };
}

const decode = reader('avif-decode', () => import('@jsquash/avif/codec/dec/avif_dec.js'));
const encode = writer('avif-encode', () => import('@jsquash/avif/codec/enc/avif_enc.js'));

/** @throws FileError */
export async function readAvif(bytes: Uint8Array): Promise<DecodedImage> {
  const { width, height, bits, alpha, orientation, profile, notices } = readHeader(bytes);
  checkSize(width, height);
  const pixels = await decode(bytes, { width, height }, bits === 8 ? 8 : 16);
  const samples = samplesOf(pixels, alpha);
  return {
    ...{ width, height, alpha, orientation, profile, notices, layout: 'rgb', samples },
    sampleType: bits === 8 ? 'u8' : 'u16'
  };
}

/** Numbers of primaries in ITU-T H.273; the curve is that of sRGB. */
export const AVIF_PRIMARIES = { srgb: 1, 'display-p3': 12 } as const satisfies Partial<
  Record<SpaceId, number>
>;
const SRGB_TRANSFER = 13;

/** What a picture is called whose bits are more than 8. */
export const AVIF_BITS = 12;

/** An AVIF of 8 bits or, of 16, of 12; without chroma subsampling from quality 90. @param quality 1…100 */
export async function writeAvif(
  image: FinishedImage,
  quality: number,
  space: keyof typeof AVIF_PRIMARIES
): Promise<Uint8Array> {
  const bits = image.samples instanceof Uint8Array ? 8 : AVIF_BITS;
  const options = {
    ...{ quality, qualityAlpha: -1, denoiseLevel: 0, tileRowsLog2: 0, tileColsLog2: 0, speed: 8 },
    ...{ subsample: quality >= 90 ? 3 : 1, chromaDeltaQ: false, sharpness: 0, enableSharpYUV: false },
    ...{ tune: 0, bitDepth: bits, lossless: false }
  };
  const file = await encode(rgbaOf(image, bits), image, options);
  const { numbers } = readHeader(file);
  if (numbers === null) throw new RangeError('The codec says nothing of colours.');
  const view = new DataView(file.buffer, file.byteOffset);
  view.setUint16(numbers, AVIF_PRIMARIES[space]);
  view.setUint16(numbers + 2, SRGB_TRANSFER);
  return file;
}
