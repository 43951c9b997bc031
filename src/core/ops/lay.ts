import { z } from 'zod';
import { referenceSchema } from '../document/mask';
import { said, shift } from './fields';
import { defineOp } from './op';

const params = z.strictObject({
  from: referenceSchema.nullable().default(null),
  /** How far the other picture is moved, right and down, in full-size pixels. */
  shift: shift(20_000)
});
export type LayParams = z.infer<typeof params>;

/** The candidate is another picture; where it is missing or does not reach it has no effect. */
export const lay = defineOp<LayParams, { readonly found: boolean }>({
  id: 'lay',
  title: 'Lay over',
  purpose: 'Lays another picture on this one, in any blend mode, through limits and a mask',
  words: [
    'overlay',
    'layer',
    'composite',
    'double exposure',
    'texture',
    'combine',
    'stack',
    'picture on top'
  ],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  // Where it lies further right, what is read lies further left.
  takes: ({ from, shift: [x, y] }) => (from ? [{ picture: from, shift: [-x, -y] }] : []),
  sentence({ from, shift: [x, y] }) {
    if (!from) return 'Another picture, not chosen yet';
    return x === 0 && y === 0
      ? 'Another picture on top'
      : `Another picture on top, moved ${said(x)}, ${said(y)} px`;
  },
  prepare: ({ from }) => ({ found: from !== null }),
  idle: ({ from }) => from === null,
  kernel({ taken }, _, out) {
    out.forEach((plane, c) => plane.set(taken[0][c].subarray(0, plane.length)));
  },
  limit({ absent }, { found }, amount) {
    if (!found) amount.fill(0);
    for (const i of absent[0] ?? []) amount[i] = 0;
  }
});
