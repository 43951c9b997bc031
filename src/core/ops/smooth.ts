import { z } from 'zod';
import { guidedReach, guidedSmooth } from '../spatial/guided';
import { shown } from './controls';
import { eachPlane } from './each-plane';
import { asRadius, oneOrEach, pixels, said, refusedKey, unit, valueOf } from './fields';
import { defineOp } from './op';

const TOLERANCE = 0.1;
const params = z.strictObject({
  radius: pixels(0, 100).register(shown, asRadius).default(8),
  tolerance: oneOrEach(
    unit(0, 2).register(shown, { label: 'tolerance', unit: '%', slider: [0, 50], worth: 0.01 })
  ).default(TOLERANCE)
});
type SmoothParams = z.infer<typeof params>;

/** Edge-preserving: a guided filter of each channel by itself. Differences far below `tolerance` go, those far above stay. */
export const smooth = defineOp<SmoothParams, { radius: number; tolerances: readonly number[] }>({
  id: 'smooth',
  title: 'Smooth',
  purpose: 'Evens out noise and false colour, and keeps edges',
  words: ['noise', 'denoise', 'grain', 'moiré', 'moire', 'false colour', 'surface', 'skin', 'soften'],
  remark: 'What differs by less than the tolerance is evened out; stronger edges stay.',
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  reach: ({ radius }, scale) => guidedReach(radius * scale),
  sentence: ({ radius, tolerance }) =>
    typeof tolerance === 'number'
      ? `Smooth within ${said(radius)} px, keep edges over ${said(100 * tolerance)} %`
      : `Smooth within ${said(radius)} px, each channel by its own`,
  prepare: ({ radius, tolerance }, { channels }) => ({
    radius,
    tolerances: channels.map((c) => valueOf(tolerance, c.letter, TOLERANCE))
  }),
  refuses: ({ tolerance }, model) => refusedKey('tolerance', tolerance, model),
  kernel(source, { radius, tolerances }, out) {
    eachPlane(
      source,
      out,
      (plane, to, c) => guidedSmooth(plane, to, source, radius * source.scale, tolerances[c]),
      (c, other) => tolerances[c] === tolerances[other]
    );
  }
});
