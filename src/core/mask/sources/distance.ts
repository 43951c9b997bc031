import { z } from 'zod';
import { said } from '../../ops/fields';
import { oklabFromLab, oklabPlanes } from '../oklab';
import { distanceFrom } from '../planes';
import { defineSource } from './source';

const schema = z.strictObject({
  kind: z.literal('distance'),
  to: z.tuple([z.number(), z.number(), z.number()]),
  space: z.enum(['ab', 'lab', 'oklab']).default('lab'),
  range: z.number().positive('must be over 0')
});
type Space = z.infer<typeof schema>['space'];

/** What one unit of the distance is in stored values. */
const SCALES: Readonly<Record<Space, readonly number[]>> = {
  ab: [0, 256, 256],
  lab: [100, 256, 256],
  oklab: [1, 1, 1]
};

/** The distance to a colour over `range`: 0 at the colour itself. */
export const distance = defineSource<
  typeof schema,
  { space: Space; place: readonly number[]; range: number }
>({
  kind: 'distance',
  title: 'Distance to a colour',
  schema,
  sees: true,
  curve: [
    [0, 1],
    [1, 0]
  ],
  fresh: () => ({ kind: 'distance', to: [60, 0, 0], space: 'lab', range: 40 }),
  words: ({ to: [l, a, b] }) => `near L ${said(l, 0)} a ${said(a, 0)} b ${said(b, 0)}`,
  prepare: ({ to: [l, a, b], space, range }) => ({
    space,
    range,
    place: space === 'oklab' ? oklabFromLab([l, a, b]) : [l / 100, a / 256 + 0.5, b / 256 + 0.5]
  }),
  fill({ space, place, range }, ground, out) {
    const planes =
      space === 'oklab' ? oklabPlanes(ground) : ['lab.l', 'lab.a', 'lab.b'].map((id) => ground.channel(id));
    const scales = SCALES[space].map((s) => s / range);
    distanceFrom(planes, place, scales, out, ground.n);
  }
});
