import { z } from 'zod';
import { referenceSchema } from '../document/mask';
import { defineHead } from './head';
import { commonShape, leastAlpha } from './parts';

const MOST = 64;
const schema = z.strictObject({
  kind: z.literal('average'),
  of: z
    .array(referenceSchema)
    .min(1, 'takes at least one picture')
    .max(MOST, `takes at most ${MOST} pictures`),
  weighting: z.enum(['noise', 'equal']).default('noise'),
  match: z.boolean().default(true)
});

/** The mean of several pictures, sample by sample, over those that are not missing there. */
export const average = defineHead<z.infer<typeof schema>>({
  kind: 'average',
  schema,
  frames: () => [],
  uses: ({ of }) => of,
  counts: () => null,
  later({ weighting, match }) {
    if (weighting === 'noise') return 'weighting by noise';
    return match ? 'matching' : null;
  },
  shape: (_, __, pictures) => commonShape(pictures),
  read(_, __, pictures, ___, out) {
    out.planes.forEach((plane, c) =>
      meanOf(
        pictures.map(({ planes }) => planes[c]),
        plane
      )
    );
    if (out.alpha)
      leastAlpha(
        pictures.map(({ alpha }) => alpha),
        out.alpha
      );
  }
});

function meanOf(planes: readonly Float32Array[], out: Float32Array): void {
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    let count = 0;
    for (const plane of planes) {
      const v = plane[i];
      if (v !== v) continue;
      sum += v;
      count++;
    }
    out[i] = count > 0 ? sum / count : Number.NaN;
  }
}
