import { type Channel, type Encoding } from '../colour';
import { decodePlane, encodePlane } from '../colour/code-planes';
import { lightnessOfLight, lightOfLightness } from '../colour/lab';

type Along = (plane: Float32Array, n: number) => void;
/** From the stored values of a channel to light, and back; in place. */
export interface ChannelLight {
  readonly into: Along;
  readonly back: Along;
}
const coded: ChannelLight = {
  into: (plane, n) => decodePlane(plane, plane, n),
  back: (plane, n) => encodePlane(plane, plane, n)
};
const lightness: ChannelLight = {
  into: (plane, n) => {
    for (let i = 0; i < n; i++) plane[i] = lightOfLightness(plane[i]);
  },
  back: (plane, n) => {
    for (let i = 0; i < n; i++) plane[i] = lightnessOfLight(plane[i]);
  }
};

/** How a channel's values become light; null for those of colour and of ink, which are taken as they stand, and for what is light. */
export function channelLight({ id }: Channel, encoding: Encoding): ChannelLight | null {
  if (id === 'lab.l') return lightness;
  return encoding === 'coded' && (id.startsWith('rgb.') || id === 'hsv.v') ? coded : null;
}
