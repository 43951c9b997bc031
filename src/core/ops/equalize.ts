import { z } from 'zod';
import { fillChannel } from '../colour';
import { rankPlane, ranksOf, rankTable, type Ranks, type RankTable } from '../measure/ranks';
import { samplesOf } from '../measure/seen';
import { defineOp, type Solving } from './op';

/** Flattens the histogram of each channel: a value becomes its rank among the analysis raster's samples. */
export const equalize = defineOp<object, readonly (RankTable | null)[], readonly (Ranks | null)[], object>({
  id: 'equalize',
  title: 'Equalise',
  purpose: 'Gives every tone of a channel an equal share of the picture',
  words: ['histogram', 'flatten', 'contrast', 'auto', 'spread'],
  remark: 'Every tone takes an equal share of the picture. Fade it under Blend.',
  params: z.strictObject({}),
  kind: 'plane',
  ownModel: () => 'rgb',
  sentence: () => 'Flatten the histogram',
  needs: (params) => params,
  *solve(_, { channels, encoding, analysis }): Solving<(Ranks | null)[]> {
    const { planes, n } = samplesOf(yield* analysis());
    const plane = new Float32Array(n);
    const found: (Ranks | null)[] = [];
    for (const { id } of channels) {
      fillChannel(id, planes, encoding, plane, n);
      found.push(ranksOf(plane, n));
      yield 1;
    }
    return found;
  },
  prepare: (_, __, solution) => solution!.map((ranks) => ranks && rankTable(ranks)),
  kernel({ planes, width, height }, coefficients, out) {
    const n = width * height;
    planes.forEach((plane, c) => {
      const ranks = coefficients[c];
      if (ranks) rankPlane(ranks, plane, out[c], n);
      else if (out[c] !== plane) out[c].set(plane.subarray(0, n));
    });
  }
});
