import { layoutChannels, sampleScale, type Frame } from '../raster/frame';

export interface PlaneStatistics {
  readonly min: number;
  readonly max: number;
  readonly mean: number;
  /** The middle value; of an even count, the mean of the two in the middle. */
  readonly median: number;
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
      let present = 0;
      for (let i = c; i < samples.length; i += channels) {
        if (!Number.isNaN(samples[i])) plane[present++] = samples[i];
      }
      return [name, statistics(plane.subarray(0, present), scale)];
    })
  );
}

/** @param plane is sorted in place; @param scale what one sample unit is worth */
function statistics(plane: Float32Array, scale: number): PlaneStatistics {
  let sum = 0;
  for (const v of plane) sum += v;
  plane.sort();
  const half = plane.length / 2;
  const median = (plane[Math.ceil(half) - 1] + plane[Math.floor(half)]) / 2;
  return {
    min: plane[0] * scale,
    max: plane[plane.length - 1] * scale,
    mean: (sum / plane.length) * scale,
    median: median * scale
  };
}
