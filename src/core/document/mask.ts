import { z } from 'zod';
import { sourceSchema, type MaskSource } from '../mask/sources';
import { curveSchema } from './curve';
import { shown } from '../ops/controls';
import { pixels } from '../ops/fields';

export { channelId, idSchema, referenceKey, referenceSchema, type Reference } from './ids';
export type { MaskSource, Stroke } from '../mask/sources';

const unit = z.number().min(0).max(1);
const MOST_TERMS = 64;
/** Radii of a mask, in full-size pixels. */
export const FARTHEST = 300;

const term = z.strictObject({
  source: sourceSchema,
  curve: curveSchema.optional(),
  invert: z.boolean().default(false),
  combine: z.enum(['intersect', 'add', 'subtract', 'min', 'max', 'difference']).default('intersect'),
  amount: unit.register(shown, { label: 'amount', unit: '%', worth: 0.01 }).default(1),
  /** On a linear picture: its source sees that through the automatic stretch. */
  stretched: z.boolean().optional()
});

export const maskSchema = z.strictObject({
  terms: z.array(term).max(MOST_TERMS, `takes at most ${MOST_TERMS} terms`).default([]),
  grow: pixels(-FARTHEST, FARTHEST)
    .register(shown, { label: 'grow', unit: 'px', slider: [-50, 50], grain: 0.5, digits: 1 })
    .default(0),
  blur: pixels(0, FARTHEST)
    .register(shown, { label: 'blur', unit: 'px', slider: [0, 100], log: true, digits: 1 })
    .default(0),
  invert: z.boolean().default(false)
});
export type Mask = z.infer<typeof maskSchema>;
export type MaskTerm = Mask['terms'][number];
export type Combine = MaskTerm['combine'];

/** A mask that is one source and nothing else. */
export const maskOf = (source: MaskSource, more: Partial<MaskTerm> = {}): Mask => ({
  terms: [{ source, invert: false, combine: 'intersect', amount: 1, ...more }],
  grow: 0,
  blur: 0,
  invert: false
});
