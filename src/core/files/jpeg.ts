import decodeColour, { init as initDecoder } from '@jsquash/jpeg/decode';
import encodeColour, { init as initEncoder } from '@jsquash/jpeg/encode';
import { sharedSamples } from '../raster/frame';
import { PlainImageData, withImageData } from './codec';
import { joined } from './deflate';
import { checkSize, damaged, FileError, truncated, type DecodedImage, type FinishedImage } from './image';
import { readInks, type Sampling } from './jpeg-inks';
import { latin } from './latin';
import { jpegSegments } from './metadata/jpeg';
import { exifOrientation } from './orientation';
import { INKS_CONVERTED } from './profile';
import { srgbProfile } from './srgb-profile';
import { once, wasmModule } from './wasm';

/** JPEG (ITU-T T.81): baseline and progressive, grey, colour and CMYK, 8 bit. */
const MARKER = 0xff;
const END = 0xd9;
const SCAN = 0xda;
const PROFILE_MARKER = 0xe2;
const PROFILE_NAME = 'ICC_PROFILE\0';
const MOST_PROFILE_PART = 65519;
const APP14 = 0xee;
/** Pixels of a block, which takes a bit at least in the scan that gives its mean (T.81, F.1.2). */
const BLOCK = 64;
const MOST_SEGMENTS = 10_000;
/** A progressive JPEG has about ten; each costs as much time as the whole picture has pixels. */
const MOST_SCANS = 100;

export const isJpeg = (bytes: Uint8Array): boolean =>
  bytes[0] === MARKER && bytes[1] === 0xd8 && bytes[2] === MARKER;

interface Header {
  width: number;
  height: number;
  components: readonly Sampling[];
  /** Transform that Adobe's marker names; null where there is none. */
  transform: number | null;
  profile: Uint8Array | null;
}

interface Decoded {
  readonly width: number;
  readonly height: number;
  readonly channels: number;
  /** Interleaved; of four channels the inks. */
  readonly samples: Uint8Array;
  readonly profile: Uint8Array | null;
}

/** The samples alone. @throws FileError */
export async function decodeJpeg(bytes: Uint8Array): Promise<Decoded> {
  const { width, height, components, transform, profile } = readHeader(bytes);
  checkSize(width, height);
  const channels = components.length;
  if (![1, 3, 4].includes(channels)) {
    throw new FileError(`The file has ${channels} channels, which no photograph has.`);
  }
  if (fewestBits(width, height, components) > 8 * bytes.length) {
    throw damaged(`it claims ${width}×${height} pixels, more than its ${bytes.length} bytes can hold`);
  }
  const ink = channels === 4;
  const read = ink
    ? await readInks(bytes, width, height, components, transform)
    : await readColour(bytes, width, height);
  const samples = sharedSamples('u8', width * height * channels) as Uint8Array;
  if (ink) samples.set(read);
  else {
    for (let i = 0, at = 0; i < read.length; i += 4) {
      for (let c = 0; c < channels; c++) samples[at++] = read[i + c];
    }
  }
  letGo(read);
  return { width, height, channels, samples, profile };
}

/** @throws FileError */
export async function readJpeg(bytes: Uint8Array): Promise<DecodedImage> {
  const { width, height, channels, samples, profile } = await decodeJpeg(bytes);
  const ink = channels === 4;
  return {
    width,
    height,
    alpha: false,
    sampleType: 'u8',
    samples,
    layout: ink ? 'cmyk' : channels === 1 ? 'grey' : 'rgb',
    profile: ink ? null : profile,
    orientation: await exifOrientation(bytes),
    notices: ink ? [INKS_CONVERTED] : []
  };
}

/** Gives memory back at once that would else wait to be tidied up, where the platform can (ECMAScript 2024). */
function letGo({ buffer }: Uint8Array): void {
  (buffer as { transfer?: (length: number) => void }).transfer?.(0);
}

/** One bit a block. */
function fewestBits(width: number, height: number, components: readonly Sampling[]): number {
  const across = Math.max(...components.map(({ h }) => h));
  const down = Math.max(...components.map(({ v }) => v));
  const blocks = components.map(({ h, v }) => (h * v) / (across * down));
  return (blocks.reduce((sum, b) => sum + b, 0) * width * height) / BLOCK;
}

/** Walks the segments up to the first scan, and makes sure that the stream has an end and not too many scans before it. */
function readHeader(bytes: Uint8Array): Header {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const parts: Uint8Array[] = [];
  let frame: Omit<Header, 'profile' | 'transform'> | null = null;
  let transform: number | null = null;
  let at = 2;
  for (let count = 0; ; count++) {
    if (count > MOST_SEGMENTS) throw damaged('it is cut into far too many segments');
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
      frame = {
        height: view.getUint16(at + 5),
        width: view.getUint16(at + 7),
        components: samplings(content)
      };
    }
    if (marker === PROFILE_MARKER && latin(content.subarray(0, 12)) === PROFILE_NAME) {
      parts[content[12]] = content.subarray(14);
    }
    if (marker === APP14 && latin(content.subarray(0, 5)) === 'Adobe') transform = content[11] ?? 0;
    at += 2 + length;
  }
  if (!frame) throw damaged('it holds no picture header');
  const end = endOf(bytes, at);
  if (end < 0) throw truncated();
  if (scans(bytes, at, end) > MOST_SCANS) {
    throw new FileError(
      `This JPEG is stored in more than ${MOST_SCANS} scans, which no camera or program writes. Save it anew.`
    );
  }
  const profile = parts.filter(Boolean);
  return { ...frame, transform, profile: profile.length ? joined(profile) : null };
}

/** Sampling factors of a frame header's components (T.81, B.2.2). */
function samplings(content: Uint8Array): Sampling[] {
  const count = content[5];
  if (content.length < 6 + 3 * count) throw damaged('its picture header is cut off');
  return Array.from({ length: count }, (_, i) => {
    const factors = content[7 + 3 * i];
    const sampling = { h: factors >> 4, v: factors & 15 };
    if (sampling.h < 1 || sampling.v < 1) throw damaged('its picture header makes no sense');
    return sampling;
  });
}

/** Where the last end marker stands behind `from`; −1 where there is none. */
function endOf(bytes: Uint8Array, from: number): number {
  for (let i = bytes.length - 2; i > from; i--) if (bytes[i] === MARKER && bytes[i + 1] === END) return i;
  return -1;
}

/** How many scans begin from `from` on. */
function scans(bytes: Uint8Array, from: number, end: number): number {
  let count = 0;
  for (let at = from; at >= 0 && at < end && count <= MOST_SCANS; at = bytes.indexOf(MARKER, at + 1)) {
    if (bytes[at + 1] === SCAN) count++;
  }
  return count;
}

const decoder = once(async () => initDecoder(await wasmModule('jpeg-decode')));
const encoder = once(async () => initEncoder(await wasmModule('jpeg-encode')));

async function readColour(bytes: Uint8Array, width: number, height: number): Promise<Uint8Array> {
  withImageData();
  await decoder();
  try {
    const image = await decodeColour(new Uint8Array(bytes).buffer);
    if (image.width === width && image.height === height) return new Uint8Array(image.data.buffer);
  } catch {
    // Told below: the codec's own words are not for a person.
  }
  throw damaged('its compressed data makes no sense');
}

/**
 * JPEG of 8-bit RGB (alpha is left out), with its profile, without chroma subsampling from quality 90.
 * @param quality 1…100
 */
export async function writeJpeg(
  { width, height, alpha, samples, profile = srgbProfile(), metadata = {} }: FinishedImage,
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
  await encoder();
  // In one scan: progressive ones are 1 % smaller and take more than twice the time.
  const options = {
    quality,
    progressive: false,
    auto_subsample: false,
    chroma_subsample: quality >= 90 ? 1 : 2
  };
  const encoded = new Uint8Array(await encodeColour(new PlainImageData(data, width, height), options));
  const told = await jpegSegments(metadata);
  return joined([encoded.subarray(0, 2), ...told, ...profileSegments(profile), encoded.subarray(2)]);
}

/** A profile in as many segments as it takes (ICC.1:2022, B.4): each says which of how many it is. */
function profileSegments(profile: Uint8Array): Uint8Array[] {
  const name = new TextEncoder().encode(PROFILE_NAME);
  const count = Math.ceil(profile.length / MOST_PROFILE_PART);
  return Array.from({ length: count }, (_, i) => {
    const part = profile.subarray(i * MOST_PROFILE_PART, (i + 1) * MOST_PROFILE_PART);
    const length = 2 + name.length + 2 + part.length;
    return joined([
      Uint8Array.of(MARKER, PROFILE_MARKER, length >> 8, length & 255),
      name,
      Uint8Array.of(i + 1, count),
      part
    ]);
  });
}
