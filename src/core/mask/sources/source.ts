import type { z } from 'zod';
import type { CurvePoint } from '../../curve';
import type { Reference, Used } from '../../document/ids';
import type { Geometry } from '../../raster/geometry';
import type { MaskGround, Stretches } from '../ground';
import type { PreparedMask } from '../prepare';

/** What a source may ask while it is made ready. */
export interface Preparing {
  readonly geometry: Geometry;
  /** The place among the pictures beside the step of one that is referred to. */
  picture(reference: Reference): number;
  mask(id: string): PreparedMask;
  /** What the op that the source is solved by has found; null for one that is solved by none. */
  readonly solved: unknown;
  /**
   * How a term sees what comes into the step, or another picture, where it is to see it stretched. All terms of a step have the same
   * one, which grows by what each of them asks for.
   */
  stretches(of: Reference | null): Stretches;
}

/** What a new source may begin from. */
export interface Beginning {
  /** Size of the frame, in full-size pixels. */
  readonly width: number;
  readonly height: number;
  /** The channel that is looked at. */
  readonly channel: string;
  /** A named mask that it may be; null where there is none. */
  readonly mask: string | null;
}

/** What pictures and named masks are called. */
export interface Names {
  picture(reference: Reference): string;
  mask(id: string): string;
}

/**
 * One kind of mask source, whole: its schema `S`, what it refers to, how it reads in words, and the plane that it makes before
 * the curve, from what `prepare` makes of it (`P`).
 */
export interface SourceKind<S extends z.ZodObject = z.ZodObject, P = unknown> {
  readonly kind: z.infer<S>['kind'];
  readonly title: string;
  readonly schema: S;
  /** Why it means nothing on another picture, in words; left out where it means the same there. */
  readonly bound?: string;
  /** What beside a colour alone its value depends on, in words: no table can hold that; left out where it is nothing. */
  readonly around?: string;
  /** The curve where a term names none; left out for the straight one. */
  readonly curve?: readonly CurvePoint[];
  /** It is made of a picture's values, which a term may see stretched. */
  readonly sees?: true;
  /** Values that wrap round, so that their curve does as well. */
  wraps?(source: z.infer<S>): boolean;
  /** As a person would begin with it; null where it can't be had. */
  fresh(from: Beginning): z.infer<S> | null;
  /** As a term of the list tells it. */
  words(source: z.infer<S>, names: Names): string;
  /** What it refers to, and under which of its keys. */
  uses?(source: z.infer<S>): { readonly key: string; readonly used: Used } | null;
  /** Has it refer to something else of the same sort. */
  use?(source: z.infer<S>, used: Used): void;
  /** The op, with its parameters, whose solution for what comes into the step, or for the picture `of`, it is made of. */
  solvedBy?(source: z.infer<S>): { readonly op: string; readonly params: object };
  prepare(source: z.infer<S>, given: Preparing): P;
  /** How many samples around one its value depends on, in a level of `scale`; left out for none. */
  reach?(prepared: P, scale: number): number;
  fill(prepared: P, ground: MaskGround, out: Float32Array): void;
  /** Where it has no value, so that its term has no effect; null where it has one everywhere. */
  absent?(prepared: P, ground: MaskGround): readonly number[] | null;
  /** Channels of what comes into the step that it is made of. */
  channels?(prepared: P): readonly string[];
  /** The masks that it is made of. */
  within?(prepared: P): readonly PreparedMask[];
}

/** Keeps the types of one kind's parts together. */
export const defineSource = <S extends z.ZodObject, P>(kind: SourceKind<S, P>): SourceKind<S, P> => kind;
