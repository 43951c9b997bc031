import { fillPresent, type Channel } from '../colour';
import { noiseOfPlanes } from '../measure/noise';
import type { Rect } from '../raster/raster';
import type { Asked, Solving } from './op';

/** Reads the channels of a step's On at full size, a part at a time; NaN where a sample is missing. */
export const channelsRead =
  ({ channels, encoding, region }: Asked) =>
  (rect: Rect): Float32Array[] => {
    const ids = channels.map(({ id }) => id);
    const n = rect.width * rect.height;
    const planes = ids.map(() => new Float32Array(n));
    fillPresent(ids, region(rect).planes, encoding, planes, n);
    return planes;
  };

/**
 * σ of the noise of each channel of a step's On, at full size.
 * @param seenAs what is to be measured of a channel's stored values, where it is not they themselves; in place
 */
export function* channelNoise(
  asked: Asked,
  seenAs: (channel: Channel, plane: Float32Array) => void = () => undefined
): Solving<number[]> {
  const read = channelsRead(asked);
  return yield* noiseOfPlanes(asked.size, (rect) => {
    const planes = read(rect);
    asked.channels.forEach((channel, c) => seenAs(channel, planes[c]));
    return planes;
  });
}
