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
  const scale = source instanceof Uint8Array ? 257 / 4 : 1 / 4;
  const stride = level.width * channels;
  for (let y = 0; y < height; y++) {
    const top = 2 * y * stride;
    const bottom = 2 * y + 1 < level.height ? top + stride : top;
    for (let x = 0; x < width; x++) {
      const left = 2 * x * channels;
      const right = 2 * x + 1 < level.width ? left + channels : left;
      const at = (y * width + x) * channels;
      for (let c = 0; c < channels; c++) {
        const a = source[top + left + c];
        const b = source[top + right + c];
        const d = source[bottom + left + c];
        const e = source[bottom + right + c];
        const sum = a + b + d + e;
        if (!float) samples[at + c] = sum * scale + 0.5;
        else samples[at + c] = Number.isNaN(sum) ? meanOfPresent(a, b, d, e) : sum / 4;
      }
    }
  }
  return { width, height, samples };
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
  const scale = sampleScale(samples);
  if (frame.layout === 'cmyk') widenInk(samples, width, channels, scale, out);
  else {
    for (let c = 0; c < 3; c++) {
      if (c < colours) widenPlane(samples, width, channels, c, scale, out, out.planes[c]);
      else out.planes[c].set(out.planes[0]);
    }
  }
  if (out.alpha) {
    if (frame.alpha) widenPlane(samples, width, channels, colours, scale, out, out.alpha);
    else out.alpha.fill(1);
  }
}

function widenPlane(
  samples: Samples,
  width: number,
  channels: number,
  channel: number,
  scale: number,
  rect: Rect,
  plane: Float32Array
): void {
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
