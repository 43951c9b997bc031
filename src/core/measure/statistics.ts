import { noiseOfWhole } from './noise';
import { ordered, orderedFloats, orderedWholes, type OrderedPart } from './order';
import { medianAndMad, skyOfOrdered } from './sky';
import { sampleScale, type Frame } from '../raster/frame';

export interface PlaneStatistics {
  readonly min: number;
  readonly max: number;
  readonly mean: number;
  /** The middle value; of an even count, the mean of the two in the middle. */
  readonly median: number;
  /** The median absolute deviation from the median. */
  readonly mad: number;
  /** σ of its noise, by its finest à trous layer. */
  readonly noise: number;
  /** The level of the sky under stars and objects. */
  readonly sky: number;
  /** The part of its samples that is clipped high. */
  readonly clipped: number;
}

const PLANE_NAMES = { grey: ['grey'], rgb: ['r', 'g', 'b'], cmyk: ['c', 'm', 'y', 'k'] } as const;

/** What the planes of a frame are called, in their order. */
export const planeNames = ({ layout, alpha }: Pick<Frame, 'layout' | 'alpha'>): readonly string[] => [
  ...PLANE_NAMES[layout],
  ...(alpha ? ['alpha'] : [])
];

/** One of so many parts of a frame, counted from 0. */
interface Part {
  readonly at: number;
  readonly of: number;
}

/** A part of a plane in order, in the frame's own samples. */
export function orderedPlane(frame: Frame, plane: number, { at, of }: Part = { at: 0, of: 1 }): OrderedPart {
  const { samples } = frame.levels[0];
  const step = planeNames(frame).length;
  const count = samples.length / step;
  const stride = {
    ...{ first: plane, step, from: Math.floor((count * at) / of) },
    to: Math.floor((count * (at + 1)) / of)
  };
  return samples instanceof Float32Array ? orderedFloats(samples, stride) : orderedWholes(samples, stride);
}

/** σ of the noise of a plane, in 0…1 nominal. */
export function noiseOfPlane(frame: Frame, plane: number): number {
  const { samples } = frame.levels[0];
  const step = planeNames(frame).length;
  const read = (from: number, to: number): Float32Array => {
    const out = new Float32Array(to - from);
    for (let i = 0, at = plane + from * step; i < out.length; i++, at += step) out[i] = samples[at];
    return out;
  };
  return noiseOfWhole(read, frame.width, frame.height) * sampleScale(samples);
}

/** From here on a sample is at the end of its range. */
const CLIPPED = 1 - 0.5 / 65535;

/** Statistics of a plane at full size, in 0…1 nominal, from its parts in order and its noise; missing samples take no part. */
export function planeStatistics(frame: Frame, parts: readonly OrderedPart[], noise: number): PlaneStatistics {
  const scale = sampleScale(frame.levels[0].samples);
  const samples = ordered(parts);
  const { length, sum } = samples;
  const none = { min: Number.NaN, max: Number.NaN, mean: Number.NaN, median: Number.NaN, mad: Number.NaN };
  if (length === 0) return { ...none, noise, sky: Number.NaN, clipped: Number.NaN };
  const { median, mad } = medianAndMad(samples);
  return {
    ...{ min: samples.at(0) * scale, max: samples.at(length - 1) * scale, mean: (sum / length) * scale },
    ...{ median: median * scale, mad: mad * scale, noise, sky: skyOfOrdered(samples).level * scale },
    clipped: 1 - samples.below(CLIPPED / scale) / length
  };
}

/** The same of each plane of a frame. */
export const frameStatistics = (frame: Frame): Record<string, PlaneStatistics> =>
  Object.fromEntries(
    planeNames(frame).map((name, plane) => [
      name,
      planeStatistics(frame, [orderedPlane(frame, plane)], noiseOfPlane(frame, plane))
    ])
  );
