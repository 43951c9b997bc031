import type { z } from 'zod';
import type { Encoding } from '../colour';
import type { SourcePicture } from '../document';
import type { Reference } from '../document/mask';
import type { Frame } from '../raster/frame';
import type { Raster } from '../raster/raster';

/** What is known of the picture at a head before any of its samples is read. */
export interface HeadShape {
  /** Full-size pixels. */
  readonly width: number;
  readonly height: number;
  /** Levels of half the size each, the full size counted, that it can be read at. */
  readonly levels: number;
  readonly alpha: boolean;
  /** Whether samples may be missing. */
  readonly mayMiss: boolean;
  readonly encoding: Encoding;
}

/** A head with what it is made of beside it, so that it can be read without its document. */
export interface SourceHead<D = unknown> {
  readonly kind: string;
  /** What its samples depend on, as a key of fixed length. */
  readonly key: string;
  /** The head as the document holds it. */
  readonly of: D;
  /** The frames that it reads itself, by content hash. */
  readonly frames: readonly { readonly hash: string; readonly encoding: Encoding }[];
  /** The pictures that it is made of, in the order in which it names them. */
  readonly pictures: readonly SourcePicture[];
}

/** One kind of head: how documents hold it, what it is made of, and how its samples are read. */
export interface HeadKind<D extends { kind: string } = { kind: string }> {
  readonly kind: D['kind'];
  readonly schema: z.ZodType<D>;
  /** The document's frames that it reads itself, and where in it they are named. */
  frames(head: D): readonly { readonly id: string; readonly path: readonly PropertyKey[] }[];
  /** The pictures that it is made of. */
  uses(head: D): readonly Reference[];
  /** What its samples depend on beside those frames and pictures; anything that JSON can hold. */
  counts(head: D): unknown;
  /** The inner op by which it is solved before it can be read, and of which parameters; null where it need not be. */
  solvedBy?(head: D): { readonly op: string; readonly params: object } | null;
  /** @throws DocumentError where its parts do not fit together */
  shape(
    source: SourceHead<D>,
    frames: readonly Frame[],
    pictures: readonly (HeadShape & { readonly name: string })[]
  ): HeadShape;
  /**
   * Fills `out` with samples of a level.
   * @param pictures those that it is made of, at the same level and over the same rectangle
   * @param solution what it was solved to; null where it need not be
   */
  read(
    source: SourceHead<D>,
    frames: readonly Frame[],
    pictures: readonly Raster[],
    level: number,
    out: Raster,
    solution: object | null
  ): void;
}

/** Keeps the types of one kind's parts together and hands it to the list. */
export const defineHead = <D extends { kind: string }>(kind: HeadKind<D>): HeadKind<D> => kind;
