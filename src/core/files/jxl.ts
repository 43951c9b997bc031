import { reader, rgbaOf, samplesOf, writer } from './codec';
import { joined } from './deflate';
import { latin } from './latin';
import type { Metadata } from './metadata';
import { box, boxedExif, boxes, exifOfBox } from './boxes';
import { checkSize, truncated, type DecodedImage, type FinishedImage } from './image';

/** JPEG XL (ISO/IEC 18181), as 8 bits of sRGB: the codec gives no more. */
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

/** Width and height by the header of the codestream. @throws FileError */
function sizeOf(bytes: Uint8Array): { width: number; height: number } {
  let at = 16;
  const bits = (count: number): number => {
    if (at + count > 8 * bytes.length) throw truncated();
    let value = 0;
    for (let i = 0; i < count; i++, at++) value += ((bytes[at >> 3] >> (at & 7)) & 1) * 2 ** i;
    return value;
  };
  const small = bits(1) === 1;
  const side = (): number => (small ? 8 * (bits(5) + 1) : bits([9, 13, 18, 30][bits(2)]) + 1);
  const height = side();
  const ratio = bits(3);
  return { height, width: ratio === 0 ? side() : Math.floor(height * RATIOS[ratio] + 1e-9) };
}

const decode = reader('jxl-decode', () => import('@jsquash/jxl/codec/dec/jxl_dec.js'));
const encode = writer('jxl-encode', () => import('@jsquash/jxl/codec/enc/jxl_enc.js'));

const READ_AS = 'JPEG XL is read as 8 bits of sRGB: what it holds beyond that is lost.';

/** @throws FileError */
export async function readJxl(bytes: Uint8Array): Promise<DecodedImage> {
  const size = sizeOf(codestreamOf(bytes));
  checkSize(size.width, size.height);
  const pixels = await decode(bytes, size);
  let alpha = false;
  for (let i = 3; i < pixels.data.length && !alpha; i += 4) alpha = pixels.data[i] !== 255;
  return {
    ...{ width: pixels.width, height: pixels.height, alpha, layout: 'rgb', sampleType: 'u8', profile: null },
    samples: samplesOf(pixels, alpha),
    ...{ orientation: 1, notices: [READ_AS] }
  };
}

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
