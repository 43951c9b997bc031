import { z } from 'zod';
import { referenceSchema } from '../document/mask';
import { demingLine } from '../measure/deming';
import { noiseOf } from '../measure/noise';
import type { Seen } from '../measure/seen';
import { defineOp, type Asked, type Solving } from './op';

/** How one picture of an average joins it, a channel each: (x − level)/gain counts as `weight`. */
export interface Joined {
  readonly level: readonly number[];
  readonly gain: readonly number[];
  readonly weight: readonly number[];
  /** σ of its noise as it joins. */
  readonly noise: readonly number[];
  /** No straight line leads to the first picture in some channel, which joins as it is. */
  readonly unmatched: boolean;
}

const params = z.strictObject({
  kind: z.literal('average'),
  of: z.array(referenceSchema),
  weighting: z.enum(['noise', 'equal']),
  match: z.boolean()
});
export type AveragingParams = z.infer<typeof params>;

/** The noise is measured over at most so many full-size pixels from the middle. */
const SQUARE = 1024;

const AS_IT_IS = { gain: 1, offset: 0 };

/** The middle of a picture at full size, over which its noise is measured. */
export function middleOf({ width, height }: Asked['size']): {
  x: number;
  y: number;
  width: number;
  height: number;
} {
  const [w, h] = [Math.min(SQUARE, width), Math.min(SQUARE, height)];
  return { x: Math.floor((width - w) / 2), y: Math.floor((height - h) / 2), width: w, height: h };
}

function* solve({ of, weighting, match }: AveragingParams, asked: Asked): Solving<readonly Joined[]> {
  const middle = middleOf(asked.size);
  const noises = (seen: Seen): number[] =>
    seen.planes.map((plane) => noiseOf(plane, seen.width, seen.height));
  let first: { seen: Seen; noise: number[] } | null = null;
  const joined: Joined[] = [];
  for (const [i, picture] of of.entries()) {
    const noise = noises(asked.regionOf(picture, middle));
    const seen = match ? yield* asked.analysisOf(picture) : null;
    if (seen) first ??= { seen, noise };
    let unmatched = false;
    const lines = [0, 1, 2].map((c) => {
      if (!seen || !first || i === 0) return AS_IT_IS;
      const ratio = noise[c] > 0 && first.noise[c] > 0 ? (noise[c] / first.noise[c]) ** 2 : 1;
      const line = demingLine(first.seen.planes[c], seen.planes[c], seen.width * seen.height, ratio);
      unmatched ||= line === null;
      return line ?? AS_IT_IS;
    });
    const own = lines.map(({ gain }, c) => noise[c] / gain);
    joined.push({
      level: lines.map(({ offset }) => offset),
      gain: lines.map(({ gain }) => gain),
      // A picture without any noise would be all of the average: then all count alike.
      weight: own.map((sigma) => (weighting === 'noise' && sigma > 0 ? 1 / sigma ** 2 : 1)),
      noise: own,
      unmatched
    });
    yield (i + 1) / of.length;
  }
  if (weighting === 'noise' && joined.some(({ noise }) => noise.some((sigma) => sigma === 0)))
    return joined.map((one) => ({ ...one, weight: [1, 1, 1] }));
  return joined;
}

/** What an average has to know of its pictures before it can be read: no step of a document, but what its head is solved by. */
export const averaging = defineOp<AveragingParams, null, readonly Joined[], AveragingParams>({
  id: '(average)',
  title: 'Average',
  purpose: 'Says how pictures join an average',
  words: [],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  takes: ({ of }) => of.map((picture) => ({ picture, whileSolving: true })),
  sentence: () => 'The average',
  needs: (all) => all,
  solve,
  prepare: () => null,
  kernel({ planes }, _, out) {
    planes.forEach((plane, c) => out[c].set(plane));
  }
});
