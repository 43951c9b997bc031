import { noiseOfWhole } from './noise';
import { sortedCounts, sortedPresent } from './order';
import { medianAndMad, skyOfSorted } from './sky';
import { layoutChannels, sampleScale, type Frame } from '../raster/frame';

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

/** Statistics of each plane of a frame at full size, in 0…1 nominal; missing samples take no part. */
export function frameStatistics(frame: Frame): Record<string, PlaneStatistics> {
  const { samples } = frame.levels[0];
  const colours = layoutChannels(frame.layout);
  const channels = colours + (frame.alpha ? 1 : 0);
  const scale = sampleScale(samples);
  const names = [...PLANE_NAMES[frame.layout], ...(frame.alpha ? ['alpha'] : [])];
  return Object.fromEntries(
    names.map((name, c) => {
      const plane = new Float32Array(samples.length / channels);
      for (let i = 0, at = c; i < plane.length; i++, at += channels) plane[i] = samples[at];
      const sorted =
        samples instanceof Float32Array ? sortedPresent(plane) : sortedCounts(samples, c, channels);
      return [name, statistics(plane, sorted, frame, scale)];
    })
  );
}

/** From here on a sample is at the end of its range. */
const CLIPPED = 1 - 0.5 / 65535;

/**
 * @param sorted those of its samples that are there
 * @param scale what one sample unit is worth
 */
function statistics(
  plane: Float32Array,
  sorted: Float32Array,
  { width, height }: Pick<Frame, 'width' | 'height'>,
  scale: number
): PlaneStatistics {
  const noise = noiseOfWhole(plane, width, height) * scale;
  const { level: sky } = skyOfSorted(sorted);
  const { median, mad } = medianAndMad(sorted);
  let sum = 0;
  for (let i = 0; i < sorted.length; i++) sum += sorted[i];
  let clipped = 0;
  while (clipped < sorted.length && sorted[sorted.length - 1 - clipped] * scale >= CLIPPED) clipped++;
  return {
    min: sorted[0] * scale,
    max: sorted[sorted.length - 1] * scale,
    mean: (sum / sorted.length) * scale,
    ...{ median: median * scale, mad: mad * scale, noise, sky: sky * scale, clipped: clipped / sorted.length }
  };
}
