import { z } from 'zod';

const tone = z.number().min(0).max(1);

/** A trapezoid over tones: 0 below the first, full from the second to the third, 0 above the fourth. */
export const trapezoidSchema = z
  .tuple([tone, tone, tone, tone])
  .refine(([a, b, c, d]) => a <= b && b <= c && c <= d, 'the four tones must not fall');
