import { z } from 'zod';
import { referenceSchema } from '../document/mask';
import { averaging, type Joined } from '../ops/averaging';
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

/**
 * The mean of several pictures, sample by sample, over those that are not missing there: each brought to the level and strength of the
 * first where they are matched, and weighing by its noise or all alike.
 */
export const average = defineHead<z.infer<typeof schema>>({
  kind: 'average',
  schema,
  frames: () => [],
  uses: ({ of }) => of,
  counts: ({ weighting, match }) => [weighting, match],
  solvedBy: (head) => (head.weighting === 'noise' || head.match ? { op: averaging.id, params: head } : null),
  shape: (_, __, pictures) => commonShape(pictures),
  read(_, __, pictures, ___, out, solution) {
    const joined = solution as readonly Joined[] | null;
    out.planes.forEach((plane, c) =>
      meanOf(
        pictures.map(({ planes }) => planes[c]),
        pictures.map((___, i) =>
          joined
            ? { level: joined[i].level[c], gain: joined[i].gain[c], weight: joined[i].weight[c] }
            : { level: 0, gain: 1, weight: 1 }
        ),
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

/** Σ w·(x − level)/gain over Σ w, of those that are there. */
function meanOf(
  planes: readonly Float32Array[],
  how: readonly { readonly level: number; readonly gain: number; readonly weight: number }[],
  out: Float32Array
): void {
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    let weights = 0;
    for (let k = 0; k < planes.length; k++) {
      const v = planes[k][i];
      if (v !== v) continue;
      const { level, gain, weight } = how[k];
      sum += (weight * (v - level)) / gain;
      weights += weight;
    }
    out[i] = weights > 0 ? sum / weights : Number.NaN;
  }
}
