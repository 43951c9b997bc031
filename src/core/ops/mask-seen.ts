import { z } from 'zod';
import { fillChannel, type Planes } from '../colour';
import { encodePlane } from '../colour/code-planes';
import { maskSchema } from '../document/mask';
import { takePlane } from '../kernels/arena';
import { liftedPlanes } from './lifting';
import { defineOp } from './op';

const params = z.strictObject({
  mask: maskSchema,
  /** The picture with the outside drained to dim grey, instead of the mask as a grey picture. */
  drained: z.boolean().default(false),
  /** How a linear picture is lifted for the eye where it is drained; null where it is not. */
  lift: z
    .object({ black: z.array(z.number()), middle: z.array(z.number()) })
    .nullable()
    .default(null)
});
type Params = z.infer<typeof params>;

const [FLOOR, DIM] = [0.1, 0.22];

function encoded(planes: Planes, n: number): Planes {
  return planes.map((plane) => {
    const to = takePlane(n);
    encodePlane(plane, to, n);
    return to;
  });
}

/** Shows a mask on the input of a step: no step of a document, but what stands behind one while its mask is looked at. */
export const maskSeen = defineOp<Params, Pick<Params, 'drained' | 'lift'>>({
  id: '(mask)',
  title: 'Mask',
  purpose: 'Shows a mask',
  words: [],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  takes: ({ mask }) => [{ mask }],
  mapMasks: (given, change) => ({ ...given, mask: change(given.mask) }),
  sentence: () => 'The mask',
  prepare: ({ drained, lift }) => ({ drained, lift }),
  // A mask is what it is, and not light.
  encodingAfter: () => 'coded',
  kernel({ planes: given, encoding, width, height, taken }, { drained, lift }, out) {
    const n = width * height;
    const [mask] = taken[0];
    if (!drained) {
      out.forEach((plane) => plane.set(mask.subarray(0, n)));
      return;
    }
    const planes = encoding === 'coded' ? given : lift ? liftedPlanes(given, lift, n) : encoded(given, n);
    const grey = takePlane(n);
    fillChannel('lum', planes, 'coded', grey, n);
    for (let i = 0; i < n; i++) grey[i] = FLOOR + DIM * Math.min(1, Math.max(0, grey[i]));
    for (let c = 0; c < 3; c++) {
      const plane = planes[c];
      const target = out[c];
      for (let i = 0; i < n; i++) target[i] = grey[i] + mask[i] * (plane[i] - grey[i]);
    }
  }
});
