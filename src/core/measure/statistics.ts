import { noiseOfWhole } from './noise';
import {
  askedOf,
  countFloats,
  countWholes,
  lowerHalves,
  ordered,
  type CountedPart,
  type Lower,
  type LowerHalves,
  type Ordered,
  type Stride
} from './order';
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

function strideOf(frame: Frame, plane: number, { at, of }: Part): Stride {
  const step = planeNames(frame).length;
  const count = frame.levels[0].samples.length / step;
  const to = Math.floor((count * (at + 1)) / of);
  return { first: plane, step, from: Math.floor((count * at) / of), to };
}
const WHOLE: Part = { at: 0, of: 1 };

/** A part of a plane counted, in the frame's own samples. */
export function countedPlane(frame: Frame, plane: number, part: Part = WHOLE): CountedPart {
  const { samples } = frame.levels[0];
  const stride = strideOf(frame, plane, part);
  return samples instanceof Float32Array ? countFloats(samples, stride) : countWholes(samples, stride);
}

/** What of a part of a plane must be looked at once more for its statistics. @param parts all of the plane, counted; its own among them */
export function lowerHalvesOf(
  frame: Frame,
  plane: number,
  parts: readonly CountedPart[],
  part: Part = WHOLE
): LowerHalves {
  const { samples } = frame.levels[0];
  if (!(samples instanceof Float32Array)) return new Map();
  const stride = strideOf(frame, plane, part);
  const asked = askedOf(parts, statisticsOf);
  return lowerHalves(samples, stride, parts[part.at], asked);
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

/** What samples in order come to, in their own unit; 1 is `nominal` there. */
function statisticsOf(samples: Ordered, nominal = 1): Omit<PlaneStatistics, 'noise'> {
  const { length, sum } = samples;
  const none = Number.NaN;
  if (length === 0)
    return { min: none, max: none, mean: none, median: none, mad: none, sky: none, clipped: none };
  return {
    ...{ min: samples.at(0), max: samples.at(length - 1), mean: sum / length },
    ...medianAndMad(samples),
    sky: skyOfOrdered(samples).level,
    clipped: 1 - samples.below(CLIPPED * nominal) / length
  };
}

/** Statistics of a plane at full size, in 0…1 nominal, from its parts, counted and looked at, and its noise; missing samples take no part. */
export function planeStatistics(
  frame: Frame,
  plane: number,
  parts: readonly CountedPart[],
  lower: readonly LowerHalves[],
  noise: number
): PlaneStatistics {
  const { samples } = frame.levels[0];
  const scale = sampleScale(samples);
  const lowersOf = (half: number): Lower[] => {
    const known = lower.flatMap((one) => one.get(half) ?? []);
    if (known.length === parts.length || !(samples instanceof Float32Array)) return known;
    return parts.flatMap((part, at) => [
      ...lowerHalves(samples, strideOf(frame, plane, { at, of: parts.length }), part, [half]).values()
    ]);
  };
  const found = statisticsOf(ordered(parts, lowersOf), 1 / scale);
  const { min, max, mean, median, mad, sky, clipped } = found;
  return {
    ...{ min: min * scale, max: max * scale, mean: mean * scale, median: median * scale, mad: mad * scale },
    ...{ noise, sky: sky * scale, clipped }
  };
}

/** The same of each plane of a frame. */
export const frameStatistics = (frame: Frame): Record<string, PlaneStatistics> =>
  Object.fromEntries(
    planeNames(frame).map((name, plane) => {
      const parts = [countedPlane(frame, plane)];
      const lower = [lowerHalvesOf(frame, plane, parts)];
      return [name, planeStatistics(frame, plane, parts, lower, noiseOfPlane(frame, plane))];
    })
  );
