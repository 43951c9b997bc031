import { buildPyramid, type Frame, type Samples } from '../raster/frame';
import { decodeImage, type ReadChoices } from '.';
import { channelsOf } from './image';
import { upright } from './orientation';
import { intoSrgb } from './profile';

export interface OpenedFrame {
  readonly frame: Frame;
  /** What a person should know about how the file was read. */
  readonly notices: readonly string[];
}

/**
 * From the bytes of an image file to a frame: decoded, upright, in sRGB or linear with its primaries, with its pyramid. Samples that are no
 * number are counted as missing.
 * @throws FileError
 */
export async function openFrame(bytes: Uint8Array, choices: ReadChoices = {}): Promise<OpenedFrame> {
  const read = await decodeImage(bytes, choices);
  const { metadata } = read;
  const image = await intoSrgb(upright(read));
  const {
    width,
    height,
    layout,
    alpha,
    sampleType,
    samples,
    encoding = 'coded',
    notices,
    fits,
    pages
  } = image;
  const missing = markMissing(samples);
  const levels = buildPyramid({ width, height, samples }, channelsOf(image));
  return {
    frame: { width, height, layout, alpha, sampleType, encoding, levels, missing, fits, pages, metadata },
    notices
  };
}

/** Turns infinities into NaN, the one sign of a missing sample, and counts them all. */
function markMissing(samples: Samples): number {
  if (!(samples instanceof Float32Array)) return 0;
  let missing = 0;
  for (let i = 0; i < samples.length; i++) {
    if (Number.isFinite(samples[i])) continue;
    samples[i] = Number.NaN;
    missing++;
  }
  return missing;
}
