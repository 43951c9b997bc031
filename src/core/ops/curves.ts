import { z } from 'zod';
import { bend, makeCurve, type Curve } from '../curve';
import { curveSchema } from '../document/curve';
import { refusedKey } from './fields';
import { defineOp } from './op';

const params = z.strictObject({ curves: z.record(z.string(), curveSchema).default({}) });
export type CurvesParams = z.infer<typeof params>;

/** The monotone cubic through each channel's points; in RGB, then the one for all of them. */
export const curves = defineOp<CurvesParams, readonly (readonly Curve[])[]>({
  id: 'curves',
  title: 'Curves',
  purpose: 'Bends the tones of each channel by a curve',
  words: [
    'tone',
    'contrast',
    'brightness',
    'exposure',
    'gamma',
    's-curve',
    'brighter',
    'darker',
    'lift',
    'fade',
    'shadows',
    'highlights',
    'lights'
  ],
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  sentence({ curves }) {
    const count = Object.keys(curves).length;
    if (count === 0) return 'Curves as straight lines';
    return 'all' in curves && count === 1
      ? 'One curve for all'
      : `Curves on ${count} ${count > 1 ? 'channels' : 'channel'}`;
  },
  prepare: ({ curves }, { channels, model }) =>
    channels.map(({ letter }) =>
      [curves[letter], model.id === 'rgb' ? curves['all'] : undefined].flatMap((points) =>
        points ? [makeCurve(points)] : []
      )
    ),
  refuses: ({ curves }, model) => refusedKey('curves', curves, model, model.id === 'rgb' ? ['all'] : []),
  kernel({ planes, width, height }, coefficients, out) {
    const n = width * height;
    planes.forEach((plane, c) => {
      const list = coefficients[c];
      if (list.length === 0 && out[c] !== plane) out[c].set(plane.subarray(0, n));
      list.forEach((curve, k) => bend(curve, k === 0 ? plane : out[c], out[c], n));
    });
  }
});
