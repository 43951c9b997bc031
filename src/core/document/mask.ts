import { z } from 'zod';
import { channels } from '../colour';
import { curveSchema } from './curve';
import { pixels } from '../ops/fields';

export const idSchema = z.string().min(1, 'must not be empty').max(64);
export const channelId = z.enum(channels.map((c) => c.id) as [string, ...string[]]);

/** A picture at one place of its path: its end, its head, or after one of its steps. */
export const referenceSchema = z.strictObject({ picture: idSchema, after: z.string().min(1).optional() });
export type Reference = z.infer<typeof referenceSchema>;

const unit = z.number().min(0).max(1);
const point = z.tuple([z.number(), z.number()]);

const MOST_TERMS = 64;
const MOST_STROKES = 10_000;
const MOST_POINTS = 100_000;
/** Diameter of a brush, in full-size pixels. */
const WIDEST = 100_000;
/** Radii of a mask, in full-size pixels. */
export const FARTHEST = 300;

const stroke = z.strictObject({
  /** x, y in pixels of the full-size frame and pressure 0…1. */
  points: z
    .array(z.tuple([z.number(), z.number(), unit]))
    .min(1)
    .max(MOST_POINTS, `takes at most ${MOST_POINTS} points`),
  /** Diameter in pixels of the full-size frame. */
  size: z.number().positive('must be over 0 px').max(WIDEST, `must be at most ${WIDEST} px`),
  hardness: unit.default(0.5),
  flow: unit.default(1),
  erase: z.boolean().default(false)
});

const source = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('channel'), channel: channelId, of: referenceSchema.optional() }),
  z.strictObject({
    kind: z.literal('mix'),
    weights: z.partialRecord(channelId, z.number()),
    constant: z.number().default(0)
  }),
  z.strictObject({
    kind: z.literal('distance'),
    to: z.tuple([z.number(), z.number(), z.number()]),
    space: z.enum(['ab', 'lab', 'oklab']).default('lab'),
    range: z.number().positive('must be over 0')
  }),
  z.strictObject({ kind: z.literal('toward'), hue: z.number(), across: z.boolean().default(false) }),
  z.strictObject({
    kind: z.literal('paint'),
    strokes: z.array(stroke).max(MOST_STROKES, `takes at most ${MOST_STROKES} strokes`)
  }),
  z.strictObject({
    kind: z.literal('ramp'),
    shape: z.enum(['straight', 'round']).default('straight'),
    from: point,
    to: point
  }),
  z.strictObject({ kind: z.literal('mask'), id: idSchema })
]);

const term = z.strictObject({
  source,
  curve: curveSchema.optional(),
  invert: z.boolean().default(false),
  combine: z.enum(['intersect', 'add', 'subtract', 'min', 'max', 'difference']).default('intersect'),
  amount: unit.default(1)
});

export const maskSchema = z.strictObject({
  terms: z.array(term).max(MOST_TERMS, `takes at most ${MOST_TERMS} terms`).default([]),
  grow: pixels(-FARTHEST, FARTHEST).default(0),
  blur: pixels(0, FARTHEST).default(0),
  invert: z.boolean().default(false)
});
export type Mask = z.infer<typeof maskSchema>;
export type MaskTerm = Mask['terms'][number];
export type MaskSource = MaskTerm['source'];
export type Combine = MaskTerm['combine'];
export type Stroke = z.infer<typeof stroke>;

/** A mask that is one source and nothing else. */
export const maskOf = (source: MaskSource, more: Partial<MaskTerm> = {}): Mask => ({
  terms: [{ source, invert: false, combine: 'intersect', amount: 1, ...more }],
  grow: 0,
  blur: 0,
  invert: false
});

/** A reference as a key. */
export const referenceKey = ({ picture, after }: Reference): string => `${picture}/${after ?? ''}`;
