import { z } from 'zod';
import { shown } from './controls';
import { pixels } from './fields';

/** By what stars are found: where they are taken out, and where they are a mask. */
export const starFields = {
  threshold: z
    .number({ error: 'must be a number (σ)' })
    .min(2, 'must be at least 2 σ')
    .max(100, 'must be at most 100 σ')
    .register(shown, { label: 'from, σ', unit: '', slider: [3, 30], step: 0.5, digits: 1 })
    .default(5),
  /** The radius of the largest. */
  largest: pixels(4, 150)
    .register(shown, { label: 'largest', unit: 'px', slider: [5, 80], step: 1, digits: 0 })
    .default(30)
};
