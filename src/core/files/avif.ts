import type { SpaceId } from '../colour/output';
import { boxes, Numbers, within, type Box } from './boxes';
import { reader, rgbaOf, samplesOf, writer } from './codec';
import { checkSize, damaged, type DecodedImage, type FinishedImage } from './image';
import type { Rect } from '../raster/raster';
import { latin } from './latin';
import { withAvifMetadata } from './metadata/avif';
import { CICP_UNKNOWN, cicpProfile } from './png-colour';

/** AVIF (ISO/IEC 14496-12 and 23008-12, AV1 in HEIF): still pictures of 8, 10 and 12 bits. */
const BRANDS = ['avif', 'avis'];
export const isAvif = (bytes: Uint8Array): boolean => {
  if (latin(bytes.subarray(4, 8)) !== 'ftyp') return false;
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0);
  const brands = latin(bytes.subarray(8, Math.min(length, 256)));
  return BRANDS.some((brand) => brands.includes(brand));
};

/** What is said of each item of the file: its properties, by number, and what it refers to. */
interface Items {
  readonly primary: number;
  readonly properties: ReadonlyMap<number, readonly Box[]>;
  readonly references: readonly { readonly kind: string; readonly from: number; readonly to: number[] }[];
}

/** Which of all properties are which item's (ISO/IEC 23008-12, 9.3.1). */
function propertiesOf(box: Box, all: readonly Box[]): Map<number, Box[]> {
  const found = new Map<number, Box[]>();
  const numbers = new Numbers(box);
  const { version, flags } = numbers.begin();
  for (let count = numbers.next(4); count > 0; count--) {
    const item = numbers.next(version < 1 ? 2 : 4);
    const own: Box[] = [];
    for (let left = numbers.next(1); left > 0; left--) {
      const index = flags & 1 ? numbers.next(2) & 0x7fff : numbers.next(1) & 0x7f;
      // 0 stands for none.
      if (index > all.length) throw damaged('it speaks of a property that it has not');
      if (index > 0) own.push(all[index - 1]);
    }
    found.set(item, own);
  }
  return found;
}

/** @throws FileError */
function readItems(bytes: Uint8Array): Items {
  const meta = [...boxes(bytes, 0, bytes.length)].find(({ type }) => type === 'meta');
  const parts = meta ? within(bytes, meta, 4) : [];
  const [first, properties, refers] = ['pitm', 'iprp', 'iref'].map((name) =>
    parts.find(({ type }) => type === name)
  );
  const inside = properties ? within(bytes, properties) : [];
  const [container, owners] = ['ipco', 'ipma'].map((name) => inside.find(({ type }) => type === name));
  if (!first || !container || !owners) throw damaged('it holds no picture header');
  const numbers = new Numbers(first);
  const primary = numbers.next(numbers.begin().version === 0 ? 2 : 4);
  const wide = refers && new Numbers(refers).begin().version > 0 ? 4 : 2;
  const references = (refers ? within(bytes, refers, 4) : []).map((box) => {
    const of = new Numbers(box);
    const from = of.next(wide);
    return { kind: box.type, from, to: Array.from({ length: of.next(2) }, () => of.next(wide)) };
  });
  return { primary, properties: propertiesOf(owners, within(bytes, container)), references };
}

interface Header {
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly alpha: boolean;
  readonly orientation: number;
  /** What of it is shown, before it is turned; null for all. */
  readonly part: Rect | null;
  readonly profile: Uint8Array | null;
  readonly notices: readonly string[];
  /** Which item is shown. */
  readonly primary: number;
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

/**
 * The clean aperture of a picture (ISO/IEC 14496-12, 12.1.4): its width, its height and how far its centre lies from that of
 * the whole, each as a fraction. @returns null where it is not of whole pixels within the picture
 */
function apertureOf({ content }: Box, width: number, height: number): Rect | null {
  const view = new DataView(content.buffer, content.byteOffset, content.length);
  if (content.length < 32) return null;
  const [w, h, x, y] = [0, 8, 16, 24].map((at) => view.getInt32(at) / view.getInt32(at + 4));
  const part = { x: x + (width - w) / 2, y: y + (height - h) / 2, width: w, height: h };
  const whole = Object.values(part).every((v) => Number.isInteger(v) && v >= 0);
  return whole && w > 0 && h > 0 && part.x + w <= width && part.y + h <= height ? part : null;
}

/** What is said of the picture that is meant to be shown: a grid's own bits are those of its first part. @throws FileError */
function readHeader(bytes: Uint8Array): Header {
  const { primary, properties, references } = readItems(bytes);
  const own = (item: number): readonly Box[] => properties.get(item) ?? [];
  const all = own(primary);
  const tile = references.find(({ kind, from }) => kind === 'dimg' && from === primary)?.to[0];
  const holders = tile === undefined ? all : [...all, ...own(tile)];
  const size = all.find(({ type }) => type === 'ispe')?.content;
  const config = holders.find(({ type }) => type === 'av1C')?.content;
  const alpha = references.some(
    ({ kind, from, to }) =>
      kind === 'auxl' &&
      to.some((item) => item === primary || item === tile) &&
      own(from).some(({ type, content }) => type === 'auxC' && latin(content).includes('alpha'))
  );
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
  const [width, height] = [view.getUint32(4), view.getUint32(8)];
  const aperture = all.find(({ type }) => type === 'clap');
  const part = aperture ? apertureOf(aperture, width, height) : null;
  // The codec would refuse it too, in no words.
  if (aperture && !part) throw damaged('its crop is not of whole pixels within it');
  const deep = (config[2] & 0x40) !== 0;
  return {
    ...{ width, height, part, profile, notices, primary },
    bits: deep ? ((config[2] & 0x20) !== 0 ? 12 : 10) : 8,
    alpha,
    orientation: orientationOf((turn ?? 0) & 3, mirror === undefined ? null : mirror & 1),
    numbers: numbers ? numbers.at + 4 : null
  };
}

const decode = reader('avif-decode', () => import('@jsquash/avif/codec/dec/avif_dec.js'));
const encode = writer('avif-encode', () => import('@jsquash/avif/codec/enc/avif_enc.js'));

/** @throws FileError */
export async function readAvif(bytes: Uint8Array): Promise<DecodedImage> {
  const { part, bits, alpha, orientation, profile, notices, ...size } = readHeader(bytes);
  checkSize(size.width, size.height);
  const samples = samplesOf(await decode(bytes, size, bits === 8 ? 8 : 16), alpha, part ?? undefined);
  const { width, height } = part ?? size;
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
  const { numbers, primary } = readHeader(file);
  if (numbers === null) throw new RangeError('The codec says nothing of colours.');
  const view = new DataView(file.buffer, file.byteOffset);
  view.setUint16(numbers, AVIF_PRIMARIES[space]);
  view.setUint16(numbers + 2, SRGB_TRANSFER);
  return withAvifMetadata(file, primary, image.metadata ?? {});
}
