import { joined } from './deflate';
import { reader, rgbaOf, samplesOf, writer } from './codec';
import { checkSize, damaged, FileError, truncated, type DecodedImage, type FinishedImage } from './image';
import { latin } from './latin';
import type { Metadata } from './metadata';
import { exifOrientation } from './orientation';

/** WebP (RFC 9649): still pictures of 8 bits, with or without loss. */
const [ALPHA, ANIMATION, PROFILE, EXIF, XMP] = [0x10, 0x02, 0x20, 0x08, 0x04];
export const WEBP_LONGEST = 16383;

export const isWebp = (bytes: Uint8Array): boolean =>
  latin(bytes.subarray(0, 4)) === 'RIFF' && latin(bytes.subarray(8, 12)) === 'WEBP';

interface Header {
  width: number;
  height: number;
  alpha: boolean;
  profile: Uint8Array | null;
  exif: Uint8Array | null;
  xmp: Uint8Array | null;
}

const little = (bytes: Uint8Array, at: number, count: number): number => {
  let value = 0;
  for (let i = count - 1; i >= 0; i--) value = value * 256 + bytes[at + i];
  return value;
};

/** @throws FileError */
function readHeader(bytes: Uint8Array): Header {
  const end = 8 + little(bytes, 4, 4);
  if (bytes.length < 12 || end > bytes.length) throw truncated();
  const header: Header = { width: 0, height: 0, alpha: false, profile: null, exif: null, xmp: null };
  for (let at = 12; at + 8 <= end;) {
    const name = latin(bytes.subarray(at, at + 4));
    const length = little(bytes, at + 4, 4);
    const content = bytes.subarray(at + 8, at + 8 + length);
    if (content.length < length) throw truncated();
    if (name === 'VP8X' && length >= 10) {
      if (content[0] & ANIMATION)
        throw new FileError('The file is a film of several pictures. Save the one you need by itself.');
      header.alpha = (content[0] & ALPHA) !== 0;
      [header.width, header.height] = [4, 7].map((i) => 1 + little(content, i, 3));
    } else if (name === 'VP8 ' && header.width === 0) {
      if (length < 10 || little(content, 3, 3) !== 0x2a019d)
        throw damaged('its picture header makes no sense');
      [header.width, header.height] = [6, 8].map((i) => little(content, i, 2) & 0x3fff);
    } else if (name === 'VP8L') {
      if (length < 5 || content[0] !== 0x2f) throw damaged('its picture header makes no sense');
      const bits = little(content, 1, 4);
      if (header.width === 0)
        [header.width, header.height] = [1 + (bits & 0x3fff), 1 + ((bits >> 14) & 0x3fff)];
      header.alpha ||= ((bits >> 28) & 1) === 1;
    } else if (name === 'ICCP') header.profile = content.slice();
    // Some begin it as JPEG does.
    else if (name === 'EXIF')
      header.exif = content.subarray(latin(content.subarray(0, 4)) === 'Exif' ? 6 : 0);
    else if (name === 'XMP ') header.xmp = content;
    at += 8 + length + (length & 1);
  }
  if (header.width === 0) throw damaged('it holds no picture');
  return header;
}

/** @throws FileError */
export function webpMetadata(bytes: Uint8Array): Metadata {
  const { exif, xmp } = readHeader(bytes);
  return { exif: exif ?? undefined, xmp: xmp ?? undefined };
}

const decode = reader('webp-decode', () => import('@jsquash/webp/codec/dec/webp_dec.js'));
const encode = writer('webp-encode', () => import('@jsquash/webp/codec/enc/webp_enc_simd.js'));

/** @throws FileError */
export async function readWebp(bytes: Uint8Array): Promise<DecodedImage> {
  const { width, height, alpha, profile, exif } = readHeader(bytes);
  checkSize(width, height);
  const pixels = await decode(bytes, { width, height });
  return {
    ...{ width, height, alpha, profile, layout: 'rgb', sampleType: 'u8', notices: [] },
    samples: samplesOf(pixels, alpha),
    orientation: exif ? await exifOrientation(exif) : 1
  };
}

/** What libwebp does otherwise than it does by itself. */
const OPTIONS = {
  ...{
    target_size: 0,
    target_PSNR: 0,
    method: 4,
    sns_strength: 50,
    filter_strength: 60,
    filter_sharpness: 0
  },
  ...{ filter_type: 1, partitions: 0, segments: 4, pass: 1, show_compressed: 0, preprocessing: 0 },
  ...{ autofilter: 0, partition_limit: 0, alpha_compression: 1, alpha_filtering: 1, alpha_quality: 100 },
  ...{ image_hint: 0, emulate_jpeg_size: 0, thread_level: 0, low_memory: 0, near_lossless: 100 },
  ...{ use_delta_palette: 0, use_sharp_yuv: 1 }
};

/**
 * A WebP of 8 bits, with its profile where it is not sRGB, and with what is told of it but IPTC, which it has no place for.
 * @param quality 1…100; nothing is lost at 100 @throws FileError where it is too large for the format
 */
export async function writeWebp(image: FinishedImage, quality: number): Promise<Uint8Array> {
  const { width, height, alpha, grey, profile, metadata: { exif, xmp } = {} } = image;
  if (Math.max(width, height) > WEBP_LONGEST)
    throw new FileError(
      `The picture is ${width}×${height} pixels, and WebP holds ${WEBP_LONGEST} a side. Choose a smaller size or another format.`
    );
  const whole = quality === 100;
  const options = { ...OPTIONS, quality, lossless: whole ? 1 : 0, exact: whole ? 1 : 0 };
  const file = await encode(rgbaOf(image), image, options);
  return profile || exif || xmp ? extended(file, image, alpha && !grey, { profile, exif, xmp }) : file;
}

/** The file in the extended form, which has room for more than the picture. */
function extended(
  file: Uint8Array,
  { width, height }: { width: number; height: number },
  alpha: boolean,
  { profile, exif, xmp }: { profile?: Uint8Array; exif?: Uint8Array; xmp?: Uint8Array }
): Uint8Array {
  const isExtended = latin(file.subarray(12, 16)) === 'VP8X';
  const rest = file.subarray(isExtended ? 30 : 12);
  const head = new Uint8Array(10);
  head[0] = (profile ? PROFILE : 0) | (alpha ? ALPHA : 0) | (exif ? EXIF : 0) | (xmp ? XMP : 0);
  [width - 1, height - 1].forEach((v, i) => head.set([v & 255, (v >> 8) & 255, v >> 16], 4 + 3 * i));
  const own = (name: string, content?: Uint8Array): Uint8Array[] => (content ? chunk(name, content) : []);
  const parts = [
    ...chunk('VP8X', head),
    ...own('ICCP', profile),
    rest,
    ...own('EXIF', exif),
    ...own('XMP ', xmp)
  ];
  const length = 4 + parts.reduce((sum, part) => sum + part.length, 0);
  return joined([named('RIFF', length), new TextEncoder().encode('WEBP'), ...parts]);
}

function named(name: string, length: number): Uint8Array {
  const bytes = new Uint8Array(8);
  bytes.set(new TextEncoder().encode(name));
  new DataView(bytes.buffer).setUint32(4, length, true);
  return bytes;
}
const chunk = (name: string, content: Uint8Array): Uint8Array[] => [
  named(name, content.length),
  content,
  new Uint8Array(content.length & 1)
];
