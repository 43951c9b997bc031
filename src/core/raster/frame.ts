import type { Encoding } from '../colour';
import { closeArena, inArena, openArena, simd, takeBytes } from '../kernels/arena';
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

/** A pyramid over `level`: box averages of 2×2, 16-bit for integer frames, missing samples left out. */
export function buildPyramid(full: Level, channels: number): Level[] {
  const levels = [full];
  for (let last = full; Math.max(last.width, last.height) > SMALLEST; last = levels[levels.length - 1]) {
    levels.push(halve(last, channels));
  }
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
  const rows = source instanceof Uint16Array && channels === 3 ? new RowPairs(level.width) : null;
  for (let y = 0; y < height; y++) {
    const top = 2 * y * stride;
    const bottom = 2 * y + 1 < level.height ? top + stride : top;
    const to = y * length;
    if (float) halveFloats(source, samples as Float32Array, top, bottom, stride, to, length, channels);
    else {
      const done = rows?.halve(source as Uint16Array, samples as Uint16Array, top, bottom, to) ?? 0;
      halveIntegers(source, samples as Uint16Array, top, bottom, stride, to, length, channels, done);
    }
  }
  rows?.close();
  return { width, height, samples };
}

/** Two rows of three 16-bit channels in the arena, where they are halved quickly. */
class RowPairs {
  private readonly mark: number;
  private readonly room: { address: number; view: Uint8Array } | null;
  private readonly pairs: number;
  private readonly bytes: number;

  constructor(width: number) {
    this.pairs = width >> 1;
    this.bytes = 6 * width;
    const needed = 3 * this.bytes + 64;
    this.mark = openArena(needed);
    this.room = takeBytes(needed);
  }

  /** @returns how many samples were written; what is left of a row has no pixel on its right */
  halve(source: Uint16Array, out: Uint16Array, top: number, bottom: number, to: number): number {
    const { room, bytes, pairs } = this;
    if (!room) return 0;
    const row = (from: number): Uint8Array =>
      new Uint8Array(source.buffer, source.byteOffset + 2 * from, bytes);
    room.view.set(row(top), 0);
    room.view.set(row(bottom), bytes);
    // Two pixels are read at a time: beyond the last there is room.
    const target = Math.ceil((2 * bytes) / 16) * 16 + 16;
    simd.halveThree(room.address, room.address + bytes, room.address + target, pairs);
    const length = 3 * pairs;
    out.set(new Uint16Array(room.view.buffer, room.address + target, length), to);
    return length;
  }

  close(): void {
    closeArena(this.mark);
  }
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
  const mark = openArena(0);
  if (!inArena(planes.map(([, plane]) => plane)) || !widenFast(samples, width, channels, rect, planes)) {
    for (const [channel, plane] of planes) widenPlane(samples, width, channels, channel, rect, plane);
  }
  closeArena(mark);
}

/** Brings the region's rows into the arena and widens them there; false where there is no room. */
function widenFast(samples: Samples, width: number, channels: number, rect: Rect, planes: Channels): boolean {
  const row = rect.width * channels * samples.BYTES_PER_ELEMENT;
  const room = takeBytes(row * rect.height);
  if (!room) return false;
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
    return true;
  }
  for (const [channel, { byteOffset }] of planes) {
    const from = room.address + channel * samples.BYTES_PER_ELEMENT;
    if (samples instanceof Uint8Array) simd.widen8(from, byteOffset, n, channels, scale);
    else if (samples instanceof Uint16Array) simd.widen16(from, byteOffset, n, channels, scale);
    else simd.widenFloat(from, byteOffset, n, channels);
  }
  return true;
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
