import type { z } from 'zod';
import type { ModelId, Planes } from '../colour';

/** The rectangle a kernel works on: planes of coded RGB (or, for a plane op, of the stored values). */
export interface Patch {
  readonly width: number;
  readonly height: number;
  readonly planes: Planes;
}

/**
 * One operation. `P` are its parameters as stored, `C` the coefficients that `prepare` makes of them once,
 * before any tile is computed.
 */
export interface Op<P = unknown, C = unknown> {
  readonly id: string;
  readonly title: string;
  /** One line on what it is for. */
  readonly purpose: string;
  readonly params: z.ZodType<P>;
  /** The model whose channels the op works in when a step names none. */
  ownModel(params: P): ModelId;
  /** How many full-size pixels around a pixel its result depends on; 0 for a pixel-wise op. */
  reach(params: P): number;
  /** The Change part of the step's sentence. */
  sentence(params: P): string;
  prepare(params: P): C;
  /** Writes the candidate for `source` into `out` (which may be the source itself where reach is 0). */
  kernel(source: Patch, coefficients: C, out: Planes): void;
}

/** Keeps the types of one op's parts together and hands it to the list as an `Op`. */
export const defineOp = <P, C>(op: Op<P, C>): Op<P, C> => op;
