import { fillPresent, type Channel } from '../colour';
import { noiseOfPlanes } from '../measure/noise';
import type { Asked, Solving } from './op';

/**
 * σ of the noise of each channel of a step's On, at full size.
 * @param seenAs what is to be measured of a channel's stored values, where it is not they themselves; in place
 */
export function* channelNoise(
  { channels, encoding, size, region }: Asked,
  seenAs: (channel: Channel, plane: Float32Array) => void = () => undefined
): Solving<number[]> {
  const ids = channels.map(({ id }) => id);
  return yield* noiseOfPlanes(size, (rect) => {
    const n = rect.width * rect.height;
    const planes = ids.map(() => new Float32Array(n));
    fillPresent(ids, region(rect).planes, encoding, planes, n);
    channels.forEach((channel, c) => seenAs(channel, planes[c]));
    return planes;
  });
}
