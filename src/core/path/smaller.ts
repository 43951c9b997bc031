import type { Encoding } from '../colour';
import { codingOf } from '../colour/output';
import { isOwn } from '../colour/own';
import { finishedChannels, type FinishedImage } from '../files/image';
import { sharedSamples, type Samples, type SampleType } from '../raster/frame';
import type { Raster } from '../raster/raster';
import { resample } from '../raster/resample';
import { narrowed, quantize, type Quantizing } from './quantize';

/** What an image is to become. */
export interface Smaller {
  readonly width: number;
  readonly height: number;
  readonly depth: SampleType;
  /** How its samples are written, or have been. */
  readonly quantizing: Quantizing;
  /** They have not been: they are floats of sRGB still, since their average needs what the file can’t hold, and are written once they have their size. */
  readonly later: boolean;
}

/** Samples of a finished image in another size: averaged as light, then rounded once. */
export function madeSmaller(image: FinishedImage, to: Smaller): Samples {
  const { width, height, alpha, grey, encoding = 'coded', samples } = image;
  const { dither = false, space = 'srgb' } = to.quantizing;
  const channels = finishedChannels({ alpha, grey });
  const coding = codingOf(to.later || isOwn(space) ? 'srgb' : space, encoding);
  const made = resample(samples, width, height, channels, to.width, to.height, {
    alpha: alpha && !grey,
    coding
  });
  if (to.later) return written(made as Float32Array, channels, encoding, to);
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
