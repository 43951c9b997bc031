import { z } from 'zod';
import { paintStrokes, prepareStroke, type PreparedStroke } from '../paint';
import { defineSource } from './source';

const MOST_STROKES = 10_000;
const MOST_POINTS = 100_000;
/** Diameter of a brush, in full-size pixels. */
const WIDEST = 100_000;

const unit = z.number().min(0).max(1);
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
export type Stroke = z.infer<typeof stroke>;

const schema = z.strictObject({
  kind: z.literal('paint'),
  strokes: z.array(stroke).max(MOST_STROKES, `takes at most ${MOST_STROKES} strokes`)
});

function isIdentity(v: number, i: number): boolean {
  return v === (i % 4 === 0 ? 1 : 0);
}

/** What brush strokes have laid down. */
export const paint = defineSource<typeof schema, readonly PreparedStroke[]>({
  kind: 'paint',
  title: 'Paint',
  schema,
  bound: 'paint',
  fresh: () => ({ kind: 'paint', strokes: [] }),
  words: ({ strokes }) => (strokes.length === 1 ? 'paint, 1 stroke' : `paint, ${strokes.length} strokes`),
  prepare: ({ strokes }, { geometry }) =>
    strokes.map((one) => prepareStroke(one, geometry.toFrame.every(isIdentity) ? null : geometry)),
  fill: (strokes, ground, out) => paintStrokes(strokes, ground, ground.scale, out)
});
