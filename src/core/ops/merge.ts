import { shown } from './controls';
import { z } from 'zod';
import { fillChannel } from '../colour';
import { referenceSchema } from '../document/mask';
import { takePlane } from '../kernels/arena';
import { said, shift, unit } from './fields';
import { defineOp } from './op';

const reach = unit().register(shown, { label: 'reach', unit: '%', worth: 0.01 }).default(0);

const params = z.strictObject({
  from: referenceSchema.nullable().default(null),
  side: z.enum(['bright', 'dark']).default('bright'),
  reach: z
    .strictObject({
      grey: reach,
      r: reach,
      g: reach,
      b: reach
    })
    .prefault({}),
  /** How far the other picture has moved against this one, right and down, in full-size pixels. */
  shift: shift(500)
});
export type MergeParams = z.infer<typeof params>;
export const reaches = ['grey', 'r', 'g', 'b'] as const;

type Coefficients = Pick<MergeParams, 'side' | 'reach'> & { readonly found: boolean };

const LETTERS = ['r', 'g', 'b'];
const clamp = (v: number): number => (v > 0 ? (v < 1 ? v : 1) : 0);

/**
 * Another exposure joins through tones of this one: m is multiplied by v^(1 + 7·reach) for each channel with some reach,
 * v its value here (1 − v on the dark side). Without reach nothing joins.
 */
export const merge = defineOp<MergeParams, Coefficients>({
  id: 'merge',
  title: 'Merge exposures',
  purpose: 'Takes the lights or the shadows from another exposure, through tones, without drawing',
  words: [
    'hdr',
    'exposure',
    'bracket',
    'blend exposures',
    'dynamic range',
    'highlights',
    'shadows',
    'combine',
    'fusion',
    'window'
  ],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  takes: ({ from, shift: moved }) => (from ? [{ picture: from, shift: moved }] : []),
  sentence({ from, side, reach }) {
    if (!from) return 'Another exposure, not chosen yet';
    const some = reaches.filter((key) => reach[key] > 0);
    const told = some.map(
      (key) => `${{ grey: 'grey', r: 'red', g: 'green', b: 'blue' }[key]} ${said(100 * reach[key])}`
    );
    const which = side === 'bright' ? 'lights' : 'shadows';
    return some.length
      ? `The ${which} of another exposure, reach ${told.join(', ')}`
      : `The ${which} of another exposure, without reach`;
  },
  prepare: ({ side, reach, from }) => ({ side, reach, found: from !== null }),
  kernel({ planes, taken }, { found }, out) {
    const source = found ? taken[0] : planes;
    out.forEach((plane, c) => plane !== source[c] && plane.set(source[c]));
  },
  limit({ planes, encoding, width, height, absent }, { side, reach, found }, amount) {
    const n = width * height;
    const some = reaches.filter((key) => reach[key] > 0);
    if (some.length === 0 || !found) {
      amount.fill(0, 0, n);
      return;
    }
    for (const key of some) {
      let plane = planes[LETTERS.indexOf(key)];
      if (key === 'grey') fillChannel('lum', planes, encoding, (plane = takePlane(n)), n);
      const power = 1 + 7 * reach[key];
      if (side === 'bright') for (let i = 0; i < n; i++) amount[i] *= clamp(plane[i]) ** power;
      else for (let i = 0; i < n; i++) amount[i] *= (1 - clamp(plane[i])) ** power;
    }
    for (const i of absent[0] ?? []) amount[i] = 0;
  }
});
