import decodeColour, { init as initDecoder } from '@jsquash/jpeg/decode';
import encodeColour, { init as initEncoder } from '@jsquash/jpeg/encode';
import jpegJs from 'jpeg-js';
import { sharedSamples } from '../raster/frame';
import { joined } from './deflate';
import { checkSize, damaged, FileError, truncated, type DecodedImage, type FinishedImage } from './image';
import { exifOrientation } from './orientation';
import { INKS_CONVERTED } from './profile';
import { srgbProfile } from './srgb-profile';
import { wasmModule } from './wasm';

/** JPEG (ITU-T T.81): baseline and progressive, grey, colour and CMYK, 8 bit. */
const MARKER = 0xff;
const END = 0xd9;
const SCAN = 0xda;
const PROFILE_MARKER = 0xe2;
const PROFILE_NAME = 'ICC_PROFILE\0';
const MOST_PROFILE_PART = 65519;
/** Even an empty block takes some bits: no JPEG holds more pixels a byte than this. */
const MOST_PIXELS_A_BYTE = 4096;

export const isJpeg = (bytes: Uint8Array): boolean =>
  bytes[0] === MARKER && bytes[1] === 0xd8 && bytes[2] === MARKER;

interface Header {
  width: number;
  height: number;
  components: number;
  profile: Uint8Array | null;
}

/** @throws FileError */
export async function readJpeg(bytes: Uint8Array): Promise<DecodedImage> {
  const { width, height, components, profile } = readHeader(bytes);
  checkSize(width, height);
  if (width * height > bytes.length * MOST_PIXELS_A_BYTE) {
    throw damaged(`it claims ${width}×${height} pixels, more than its ${bytes.length} bytes can hold`);
  }
  if (![1, 3, 4].includes(components)) {
    throw new FileError(`The file has ${components} channels, which no photograph has.`);
  }
  const ink = components === 4;
  const grey = components === 1;
  const channels = grey ? 1 : 3;
  const samples = sharedSamples('u8', width * height * channels);
  const read = ink ? readInk(bytes, width, height) : await readColour(bytes, width, height);
  const stride = read.length / (width * height);
  for (let i = 0, at = 0; i < read.length; i += stride) {
    for (let c = 0; c < channels; c++) samples[at++] = read[i + c];
  }
  return {
    width,
    height,
    alpha: false,
    sampleType: 'u8',
    samples,
    layout: grey ? 'grey' : 'rgb',
    profile: ink ? null : profile,
    orientation: await exifOrientation(bytes),
    notices: ink ? [INKS_CONVERTED] : []
  };
}

/** Walks the segments up to the first scan, and makes sure that the stream has an end. */
function readHeader(bytes: Uint8Array): Header {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const parts: Uint8Array[] = [];
  let frame: Omit<Header, 'profile'> | null = null;
  let at = 2;
  for (;;) {
    while (bytes[at] === MARKER && bytes[at + 1] === MARKER) at++;
    if (at + 4 > bytes.length) throw truncated();
    if (bytes[at] !== MARKER) throw damaged('a segment does not begin where it should');
    const marker = bytes[at + 1];
    if (marker === SCAN) break;
    const length = view.getUint16(at + 2);
    if (at + 2 + length > bytes.length) throw truncated();
    const content = bytes.subarray(at + 4, at + 2 + length);
    const startOfFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (startOfFrame) {
      if (![0xc0, 0xc1, 0xc2].includes(marker) || content[0] !== 8) {
        throw new FileError(
          'This kind of JPEG (lossless, arithmetic or 12 bit) can’t be read. Save it as an 8-bit JPEG, a PNG or a TIFF.'
        );
      }
      frame = { height: view.getUint16(at + 5), width: view.getUint16(at + 7), components: content[5] };
    }
    if (marker === PROFILE_MARKER && latin(content.subarray(0, 12)) === PROFILE_NAME) {
      parts[content[12]] = content.subarray(14);
    }
    at += 2 + length;
  }
  if (!frame) throw damaged('it holds no picture header');
  if (!hasEnd(bytes, at)) throw truncated();
  const profile = parts.filter(Boolean);
  return { ...frame, profile: profile.length ? joined(profile) : null };
}

function hasEnd(bytes: Uint8Array, from: number): boolean {
  for (let i = bytes.length - 2; i > from; i--) if (bytes[i] === MARKER && bytes[i + 1] === END) return true;
  return false;
}

const latin = (bytes: Uint8Array): string => String.fromCharCode(...bytes);

/** The codec hands its pixels over in this class, which only browsers have. */
class PlainImageData {
  readonly colorSpace = 'srgb';
  readonly pixelFormat = 'rgba-unorm8';
  constructor(
    readonly data: Uint8ClampedArray<ArrayBuffer>,
    readonly width: number,
    readonly height: number
  ) {}
}

let decoder: Promise<void> | null = null;
let encoder: Promise<void> | null = null;

async function readColour(bytes: Uint8Array, width: number, height: number): Promise<Uint8Array> {
  globalThis.ImageData ??= PlainImageData as unknown as typeof ImageData;
  decoder ??= wasmModule('jpeg-decode').then((module) => initDecoder(module));
  await decoder;
  try {
    const image = await decodeColour(new Uint8Array(bytes).buffer);
    if (image.width === width && image.height === height) return new Uint8Array(image.data.buffer);
  } catch {
    // Told below: the codec's own words are not for a person.
  }
  throw damaged('its compressed data makes no sense');
}

/** RGB from inks by R = (1−C)(1−K), which is what this decoder makes of them (and it keeps none of the inks). */
function readInk(bytes: Uint8Array, width: number, height: number): Uint8Array {
  try {
    const options = {
      useTArray: true,
      formatAsRGBA: false,
      colorTransform: undefined,
      maxMemoryUsageInMB: 8192,
      maxResolutionInMP: 512
    };
    const decoded = jpegJs.decode(bytes, options as never);
    if (decoded.width === width && decoded.height === height) return new Uint8Array(decoded.data);
  } catch {
    // Told below.
  }
  throw damaged('its compressed data makes no sense');
}

/**
 * JPEG of 8-bit RGB (alpha is left out), tagged with an sRGB profile, without chroma subsampling from quality 90.
 * @param quality 1…100
 */
export async function writeJpeg(
  { width, height, alpha, samples }: FinishedImage,
  quality: number
): Promise<Uint8Array> {
  const data = new Uint8ClampedArray(width * height * 4);
  const channels = alpha ? 4 : 3;
  for (let i = 0, at = 0; i < data.length; i += 4, at += channels) {
    data[i] = samples[at];
    data[i + 1] = samples[at + 1];
    data[i + 2] = samples[at + 2];
    data[i + 3] = 255;
  }
  encoder ??= wasmModule('jpeg-encode').then((module) => initEncoder(module));
  await encoder;
  const options = { quality, auto_subsample: false, chroma_subsample: quality >= 90 ? 1 : 2 };
  const encoded = new Uint8Array(await encodeColour(new PlainImageData(data, width, height), options));
  const profile = srgbProfile();
  if (profile.length > MOST_PROFILE_PART) throw new RangeError('The profile takes more than one segment.');
  const name = new TextEncoder().encode(PROFILE_NAME);
  const length = 2 + name.length + 2 + profile.length;
  const segment = [
    Uint8Array.of(MARKER, PROFILE_MARKER, length >> 8, length & 255),
    name,
    Uint8Array.of(1, 1),
    profile
  ];
  return joined([encoded.subarray(0, 2), ...segment, encoded.subarray(2)]);
}
