import { z } from 'zod';

/** Points stand at least so far apart; what a subtraction of two such numbers may lose. */
const CLOSEST = 1e-4;
const ROUNDING = 1e-9;

const point = z.tuple([z.number(), z.number()]);

/** Points of a curve, x rising. */
export const curveSchema = z
  .array(point)
  .min(2, 'needs at least two points')
  .max(64, 'takes at most 64 points')
  .refine(
    (points) => points.every(([x], i) => i === 0 || x - points[i - 1][0] >= CLOSEST - ROUNDING),
    'x must rise from point to point'
  );
