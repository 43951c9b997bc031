import type { Encoding } from '../colour';
import { codingOf } from '../colour/output';
import { isOwn } from '../colour/own';
import { finishedChannels, type FinishedImage } from '../files/image';
import { sharedSamples, type Samples, type SampleType } from '../raster/frame';
import type { Raster } from '../raster/raster';
import { resample } from '../raster/resample';
import { narrowed, quantize, type Quantizing } from './quantize';

/** How samples are written, and as what. */
interface FullSize {
  readonly depth: SampleType;
  readonly quantizing: Quantizing;
}

/** What an image is to become. */
export interface Smaller extends FullSize {
  readonly width: number;
  readonly height: number;
  /** Its average needs what the file can’t hold: it is made of floats of sRGB, which are written once they have its size. */
  readonly ofFloats: boolean;
}

/** How an image is written at full size that is made smaller after that: what is rounded is rounded once. */
export function atFullSize({ depth, quantizing, ofFloats }: Smaller): FullSize {
  if (!ofFloats) return { depth: depth === 'u8' ? 'u16' : depth, quantizing };
  const { keepRange = false, grey, encoding, space = 'srgb' } = quantizing;
  const beyond = space !== 'srgb' || (keepRange && depth === 'f32');
  return { depth: 'f32', quantizing: { keepRange: beyond, keepMissing: true, grey, encoding } };
}

/** Samples of an image that was written so, in its size: averaged as light, then rounded once. */
export function madeSmaller(image: FinishedImage, to: Smaller): Samples {
  const { width, height, alpha, grey, encoding = 'coded', samples } = image;
  const { dither = false, space = 'srgb' } = to.quantizing;
  const channels = finishedChannels({ alpha, grey });
  const coding = codingOf(to.ofFloats || isOwn(space) ? 'srgb' : space, encoding);
  const made = resample(samples, width, height, channels, to.width, to.height, {
    alpha,
    coding
  });
  if (to.ofFloats) return written(made as Float32Array, channels, encoding, to);
  const isRounded = made instanceof Uint16Array && to.depth === 'u8';
  return isRounded ? narrowed(made, to.width, channels, dither) : made;
}

/** So many pixels are written at a time. */
const AT_ONCE = 2 ** 20;

/** Interleaved floats of sRGB as a file holds them. */
function written(
  made: Float32Array,
  channels: number,
  encoding: Encoding,
  { width, height, depth, quantizing }: Smaller
): Samples {
  const out = sharedSamples(depth, made.length);
  const rows = Math.max(1, Math.floor(AT_ONCE / width));
  for (let y = 0; y < height; y += rows) {
    const part = { x: 0, y, width, height: Math.min(rows, height - y) };
    const planes = Array.from({ length: channels }, (_, c) =>
      Float32Array.from({ length: width * part.height }, (_, i) => made[(y * width + i) * channels + c])
    );
    const [alpha = null] = planes.splice(3);
    const raster = { ...part, encoding, planes: planes as unknown as Raster['planes'], alpha };
    quantize(raster, out, width, { ...quantizing, grey: channels === 1 });
  }
  return out;
}
