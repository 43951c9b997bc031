import { z } from 'zod';
import { guidedReach, guidedSmooth } from '../spatial/guided';
import { oneOrEach, pixels, said, strangeKey, unit, valueOf } from './fields';
import { defineOp } from './op';

const TOLERANCE = 0.1;
const params = z.strictObject({
  radius: pixels(0, 100).default(8),
  tolerance: oneOrEach(unit(0, 2)).default(TOLERANCE)
});
export type SmoothParams = z.infer<typeof params>;

/** Edge-preserving: a guided filter of each channel by itself. Differences far below `tolerance` go, those far above stay. */
export const smooth = defineOp<SmoothParams, { radius: number; tolerances: readonly number[] }>({
  id: 'smooth',
  title: 'Smooth',
  purpose: 'Evens out noise and false colour, and keeps edges',
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
  refuses: ({ tolerance }, model) => eachRefused('tolerance', tolerance, model),
  kernel(source, { radius, tolerances }, out) {
    source.planes.forEach((plane, c) =>
      guidedSmooth(plane, out[c], source, radius * source.scale, tolerances[c])
    );
  }
});

/** What is wrong with a parameter that may be one number or one for each channel of On; null where nothing is. */
export function eachRefused(
  name: string,
  value: number | Readonly<Record<string, number>>,
  model: { readonly title: string; readonly channels: readonly { readonly letter: string }[] }
): { path: PropertyKey[]; message: string } | null {
  if (typeof value === 'number') return null;
  const letters = model.channels.map((c) => c.letter);
  const strange = strangeKey(Object.keys(value), letters, model.title);
  return strange && { path: [name, strange.key], message: strange.message };
}
