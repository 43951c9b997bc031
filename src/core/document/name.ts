import { z } from 'zod';

export const LONGEST_NAME = 200;

/** Name of a document, a frame, a picture, a mask or a pin. */
export const nameSchema = z
  .string()
  .min(1, 'must not be empty')
  .max(LONGEST_NAME, `must be at most ${LONGEST_NAME} letters`);
