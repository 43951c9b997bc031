import type { Encoding } from '../colour';
import { eitherWay, simd, takeBytes, whereRoom } from '../kernels/arena';
import type { Raster, Rect } from './raster';

export type SampleType = 'u8' | 'u16' | 'f32';
export type Samples = Uint8Array | Uint16Array | Float32Array;
export type Layout = 'grey' | 'rgb' | 'cmyk';

export interface Level {
  readonly width: number;
  readonly height: number;
  /** Interleaved, row by row; integer types hold 0…1 as 0…max. */
  readonly samples: Samples;
}

/** Which of its pictures a file was read for, and all of them. */
export interface FilePages {
  readonly hdu: number;
  readonly parts: readonly {
    readonly hdu: number;
    readonly name: string;
    readonly width: number;
    readonly height: number;
  }[];
}

/** What a FITS file says beside its samples. */
export interface FitsFacts extends FilePages {
  /** Cards of the header as they stand in it, 80 letters each. */
  readonly cards: readonly string[];
  readonly range: number;
  /** Counted from 1; null where all make the picture. */
  readonly plane: number | null;
  readonly planes: number;
}

/** What a file says of its picture beside the pixels, each as a block of bytes as its standard has it. */
export interface Metadata {
  /** A TIFF structure (CIPA DC-008, 4.5), without a name before it. */
  readonly exif?: Uint8Array;
  /** Data sets of IPTC-IIM 4.2, one after another. */
  readonly iptc?: Uint8Array;
  /** An XMP packet (ISO 16684-1). */
  readonly xmp?: Uint8Array;
}

/** A decoded input image in its own sample type, in shared memory, with its pyramid. */
export interface Frame {
  readonly width: number;
  readonly height: number;
  readonly layout: Layout;
  readonly alpha: boolean;
  readonly sampleType: SampleType;
  /** What its samples hold, where the file says so; `coded` where it does not. */
  readonly encoding: Encoding;
  /** Full size first; each further level has half the width and height, rounded up. */
  readonly levels: readonly Level[];
  /** Samples that were blank or no number in the file. */
  readonly missing: number;
  /** What a FITS file says beside its samples. */
  readonly fits?: FitsFacts;
  /** Of a file of another format that holds several pictures. */
  readonly pages?: FilePages;
  /** What files of other formats say of their picture. */
  readonly metadata?: Metadata;
}

const SAMPLE_BYTES = { u8: 1, u16: 2, f32: 4 } as const;
const SMALLEST = 64;

/** Samples in memory that every worker can read. @throws RangeError when there is no memory for them */
export function sharedSamples(type: SampleType, length: number): Samples {
  const buffer = new SharedArrayBuffer(length * SAMPLE_BYTES[type]);
  if (type === 'u8') return new Uint8Array(buffer);
  return type === 'u16' ? new Uint16Array(buffer) : new Float32Array(buffer);
}

export const layoutChannels = (layout: Layout): number => ({ grey: 1, rgb: 3, cmyk: 4 })[layout];

/** What one sample unit is worth: 1/255, 1/65535 or 1. */
export const sampleScale = (samples: Samples): number =>
  samples instanceof Uint8Array ? 1 / 255 : samples instanceof Uint16Array ? 1 / 65535 : 1;

/** Mean of a frame's samples, 0…1, from its smallest level; missing ones left out. */
export function brightness({ levels }: Pick<Frame, 'levels'>): number {
  const { samples } = levels[levels.length - 1];
  let sum = 0;
  let count = 0;
  for (const v of samples) {
    if (v !== v) continue;
    sum += v;
    count++;
  }
  return count ? (sum / count) * sampleScale(samples) : 0;
}

/**
 * A pyramid over `full`: box averages of 2×2, 16-bit for integer frames, missing samples left out.
 * @param count of its levels; as many as it takes to come to 64 pixels where none is named
 */
export function buildPyramid(full: Level, channels: number, count?: number): Level[] {
  const levels = [full];
  const isDone = ({ width, height }: Level): boolean =>
    count === undefined ? Math.max(width, height) <= SMALLEST : levels.length >= count;
  for (let last = full; !isDone(last); last = levels[levels.length - 1]) levels.push(halve(last, channels));
  return levels;
}

function halve(level: Level, channels: number): Level {
  const width = Math.ceil(level.width / 2);
  const height = Math.ceil(level.height / 2);
  const source = level.samples;
  const float = source instanceof Float32Array;
  const samples = sharedSamples(float ? 'f32' : 'u16', width * height * channels);
  const stride = level.width * channels;
  const length = width * channels;
  /** @param row writes the first samples of a row, and says how many */
  const byRows = (row: (top: number, bottom: number, to: number) => number): void => {
    for (let y = 0; y < height; y++) {
      const top = 2 * y * stride;
      const bottom = 2 * y + 1 < level.height ? top + stride : top;
      const to = y * length;
      const done = row(top, bottom, to);
      if (float) halveFloats(source, samples as Float32Array, top, bottom, stride, to, length, channels);
      else halveIntegers(source, samples as Uint16Array, top, bottom, stride, to, length, channels, done);
    }
  };
  const plainly = (): void => byRows(() => 0);
  if (source instanceof Uint16Array && channels === 3) {
    const fast = (): void => byRows(rowPairs(source, samples as Uint16Array, level.width));
    whereRoom(fast, plainly, 18 * level.width + 64);
  } else plainly();
  return { width, height, samples };
}

/** Halves two rows of three 16-bit channels in the kernels' memory; what is left of them has no pixel on its right. */
function rowPairs(
  source: Uint16Array,
  out: Uint16Array,
  width: number
): (top: number, bottom: number, to: number) => number {
  const bytes = 6 * width;
  const length = 3 * (width >> 1);
  const { address, view } = takeBytes(3 * bytes + 64);
  // Two pixels are read at a time: beyond the last there is room.
  const target = Math.ceil((2 * bytes) / 16) * 16 + 16;
  const row = (from: number): Uint8Array =>
    new Uint8Array(source.buffer, source.byteOffset + 2 * from, bytes);
  return (top, bottom, to) => {
    view.set(row(top), 0);
    view.set(row(bottom), bytes);
    simd.halveThree(address, address + bytes, address + target, width >> 1);
    out.set(new Uint16Array(view.buffer, address + target, length), to);
    return length;
  };
}

/**
 * One row of 2×2 means, rounded, in 16 bit, but for the first `done` samples; 8-bit samples count 257. `stride` is the
 * length of a source row.
 */
function halveIntegers(
  source: Uint8Array | Uint16Array,
  out: Uint16Array,
  top: number,
  bottom: number,
  stride: number,
  to: number,
  length: number,
  channels: number,
  done = 0
): void {
  const unit = source instanceof Uint8Array ? 257 : 1;
  const last = stride - channels;
  for (let c = 0; c < channels; c++) {
    for (let i = done + c, left = 2 * done + c; i < length; i += channels, left += 2 * channels) {
      const right = left < last ? left + channels : left;
      const sum = source[top + left] + source[top + right] + source[bottom + left] + source[bottom + right];
      out[to + i] = (sum * unit + 2) >> 2;
    }
  }
}

/** The same for floats, unrounded; missing samples are left out of the mean. */
function halveFloats(
  source: Float32Array,
  out: Float32Array,
  top: number,
  bottom: number,
  stride: number,
  to: number,
  length: number,
  channels: number
): void {
  const last = stride - channels;
  for (let i = 0; i < length; i++) {
    const left = 2 * i - (i % channels);
    const right = left < last ? left + channels : left;
    const a = source[top + left];
    const b = source[top + right];
    const c = source[bottom + left];
    const d = source[bottom + right];
    const sum = a + b + c + d;
    out[to + i] = Number.isNaN(sum) ? meanOfPresent(a, b, c, d) : sum / 4;
  }
}

function meanOfPresent(...values: number[]): number {
  const present = values.filter((v) => !Number.isNaN(v));
  return present.reduce((sum, v) => sum + v, 0) / present.length;
}

/** Widens the samples under `out`'s rectangle, which must lie inside the level, into its planes. */
export function readRegion(frame: Frame, level: number, out: Raster): void {
  const { samples, width } = frame.levels[level];
  const colours = layoutChannels(frame.layout);
  const channels = colours + (frame.alpha ? 1 : 0);
  const targets = frame.layout === 'cmyk' ? [] : out.planes.slice(0, colours);
  if (frame.layout === 'cmyk') widenInk(samples, width, channels, sampleScale(samples), out);
  if (out.alpha && !frame.alpha) out.alpha.fill(1);
  const planes: [channel: number, plane: Float32Array][] = targets.map((plane, c) => [c, plane]);
  if (out.alpha && frame.alpha) planes.push([colours, out.alpha]);
  widen(samples, width, channels, out, planes);
  if (frame.layout === 'grey') for (const plane of out.planes.slice(1)) plane.set(out.planes[0]);
}

type Channels = readonly [channel: number, plane: Float32Array][];

function widen(samples: Samples, width: number, channels: number, rect: Rect, planes: Channels): void {
  eitherWay(
    planes.map(([, plane]) => plane),
    () => widenFast(samples, width, channels, rect, planes),
    () => {
      for (const [channel, plane] of planes) widenPlane(samples, width, channels, channel, rect, plane);
    }
  );
}

/** Brings the region's rows into the kernels' memory and widens them there. */
function widenFast(samples: Samples, width: number, channels: number, rect: Rect, planes: Channels): void {
  const row = rect.width * channels * samples.BYTES_PER_ELEMENT;
  const room = takeBytes(row * rect.height);
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  for (let y = 0; y < rect.height; y++) {
    const from = ((rect.y + y) * width + rect.x) * channels * samples.BYTES_PER_ELEMENT;
    room.view.set(bytes.subarray(from, from + row), y * row);
  }
  const n = rect.width * rect.height;
  const scale = sampleScale(samples);
  if (samples instanceof Uint16Array && channels === 3 && planes.length === 3) {
    const [r, g, b] = planes.map(([, plane]) => plane.byteOffset);
    simd.widenThree(room.address, r, g, b, n, scale);
    return;
  }
  for (const [channel, { byteOffset }] of planes) {
    const from = room.address + channel * samples.BYTES_PER_ELEMENT;
    if (samples instanceof Uint8Array) simd.widen8(from, byteOffset, n, channels, scale);
    else if (samples instanceof Uint16Array) simd.widen16(from, byteOffset, n, channels, scale);
    else simd.widenFloat(from, byteOffset, n, channels);
  }
}

function widenPlane(
  samples: Samples,
  width: number,
  channels: number,
  channel: number,
  rect: Rect,
  plane: Float32Array
): void {
  const scale = sampleScale(samples);
  let i = 0;
  for (let y = rect.y; y < rect.y + rect.height; y++) {
    let at = (y * width + rect.x) * channels + channel;
    for (let x = 0; x < rect.width; x++, at += channels) plane[i++] = samples[at] * scale;
  }
}

/** CMYK frames hold ink: R = (1−C)(1−K), and likewise G and B. */
function widenInk(samples: Samples, width: number, channels: number, scale: number, out: Raster): void {
  const [red, green, blue] = out.planes;
  let i = 0;
  for (let y = out.y; y < out.y + out.height; y++) {
    let at = (y * width + out.x) * channels;
    for (let x = 0; x < out.width; x++, at += channels, i++) {
      const paper = 1 - samples[at + 3] * scale;
      red[i] = (1 - samples[at] * scale) * paper;
      green[i] = (1 - samples[at + 1] * scale) * paper;
      blue[i] = (1 - samples[at + 2] * scale) * paper;
    }
  }
}

/** A frame of one grey pixel: for what needs a picture and asks nothing of it. */
export function greyPixel(): Frame {
  const samples = sharedSamples('f32', 3).fill(0.5);
  return {
    ...{ width: 1, height: 1, layout: 'rgb', alpha: false, sampleType: 'f32', encoding: 'coded', missing: 0 },
    levels: buildPyramid({ width: 1, height: 1, samples }, 3)
  };
}
