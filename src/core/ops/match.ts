import { z } from 'zod';
import { referenceSchema } from '../document/mask';
import { demingLine, type Line } from '../measure/deming';
import { noiseOf } from '../measure/noise';
import { quantiles } from '../measure/quantile';
import type { Seen } from '../measure/seen';
import { middleOf } from './averaging';
import { shown } from './controls';
import { said, weight } from './fields';
import { defineOp, type Asked, type Solving } from './op';

const LETTERS = ['r', 'g', 'b'] as const;
type Three = readonly [number, number, number];

const gain = weight
  .clone()
  .register(shown, { label: 'gain', unit: '%', slider: [0, 300], worth: 0.01, digits: 2 })
  .default(1);
const offset = weight
  .clone()
  .register(shown, { label: 'offset', unit: '%', slider: [-10, 10], worth: 0.01, digits: 4, grain: 0.01 })
  .default(0);

const params = z.strictObject({
  to: referenceSchema.nullable().default(null),
  channel: z.enum(['lowest', ...LETTERS]).default('lowest'),
  gain: z.strictObject({ r: gain, g: gain, b: gain }).prefault({}),
  offset: z.strictObject({ r: offset, g: offset, b: offset }).prefault({}),
  /** The numbers stay as they stand. */
  frozen: z.boolean().default(false)
});
export type MatchParams = z.infer<typeof params>;

/** What was found for a channel: the others are matched to it, a line, or none, and then it stays as it is. */
export type Matched = Line | 'the reference' | 'none';

export interface MatchCoefficients {
  readonly gain: Three;
  readonly offset: Three;
  /** Null where nothing was asked. */
  readonly lines: readonly Matched[] | null;
}

type Need = Pick<MatchParams, 'to' | 'channel'>;

/** The ratio of the noise of two planes at full size, squared; 1 where there is none to be found. */
function noiseRatio(x: Seen, y: Seen, c: number, d: number): number {
  const [own, other] = [noiseOf(x.planes[c], x.width, x.height), noiseOf(y.planes[d], y.width, y.height)];
  return own > 0 && other > 0 ? (other / own) ** 2 : 1;
}

function* solve({ to, channel }: Need, asked: Asked): Solving<readonly Matched[]> {
  const middle = middleOf(asked.size);
  const own = yield* asked.analysis();
  const near = asked.region(middle);
  const n = own.width * own.height;
  if (to) {
    const other = yield* asked.analysisOf(to);
    const theirs = asked.regionOf(to, middle);
    return [0, 1, 2].map(
      (c) => demingLine(own.planes[c], other.planes[c], n, noiseRatio(near, theirs, c, c)) ?? 'none'
    );
  }
  const medians = own.planes.map((plane) => quantiles(plane, n, [0.5])[0]);
  const reference = channel === 'lowest' ? medians.indexOf(Math.min(...medians)) : LETTERS.indexOf(channel);
  return [0, 1, 2].map((c) =>
    c === reference
      ? 'the reference'
      : (demingLine(own.planes[c], own.planes[reference], n, noiseRatio(near, near, c, reference)) ?? 'none')
  );
}

const inOrder = (of: Readonly<Record<'r' | 'g' | 'b', number>>): Three => [of.r, of.g, of.b];

/** gain·x + offset, so that level and strength are those of a reference: another picture's, or one of its own channels'. */
export const match = defineOp<MatchParams, MatchCoefficients, readonly Matched[], Need>({
  id: 'match',
  title: 'Match',
  purpose: 'Brings level and strength to those of another picture, or of one of its own channels',
  words: ['normalise', 'normalize', 'equalise', 'level', 'scale', 'channels', 'astro', 'regression'],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  takes: ({ to }) => (to ? [{ picture: to, whileSolving: true }] : []),
  sentence({ to, channel, gain, offset, frozen }) {
    if (frozen) {
      const gains = inOrder(gain).map((v) => said(v, 3));
      const offsets = inOrder(offset).map((v) => said(100 * v, 3));
      return `Gains ${gains.join(' ')}, offsets ${offsets.join(' ')} %`;
    }
    if (to) return 'Level and strength as in another picture';
    const names = { r: 'red', g: 'green', b: 'blue' };
    return channel === 'lowest'
      ? 'All channels as the one with the lowest level'
      : `All channels as ${names[channel]}`;
  },
  needs: ({ to, channel, frozen }) => (frozen ? null : { to, channel }),
  solve,
  prepare({ gain, offset, frozen }, _, lines) {
    if (frozen || !lines) return { gain: inOrder(gain), offset: inOrder(offset), lines: null };
    return {
      gain: lines.map((line) => (typeof line === 'string' ? 1 : line.gain)) as unknown as Three,
      offset: lines.map((line) => (typeof line === 'string' ? 0 : line.offset)) as unknown as Three,
      lines
    };
  },
  solved: (coefficients) => coefficients,
  kernel({ planes, width, height }, { gain, offset }, out) {
    const n = width * height;
    planes.forEach((plane, c) => {
      const [times, plus, into] = [gain[c], offset[c], out[c]];
      for (let i = 0; i < n; i++) into[i] = plane[i] * times + plus;
    });
  }
});
