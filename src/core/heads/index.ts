import { z } from 'zod';
import type { Encoding } from '../colour';
import { contentKey } from '../document/content-key';
import type { Frame } from '../raster/frame';
import type { Raster } from '../raster/raster';
import { average } from './average';
import { compose } from './compose';
import { frame } from './frame';
import type { HeadKind, HeadShape, SourceHead } from './head';

export { beginsFrom, headFrom, isComposed, partsOf, withPart, type Composed, type Row } from './compose';
export type { HeadShape, SourceHead } from './head';

/** Every kind of head there is. */
const kinds = [frame, compose, average] as const;

export type DocumentHead = (typeof kinds)[number] extends infer K
  ? K extends HeadKind<infer D>
    ? D
    : never
  : never;

export const headSchema = z.discriminatedUnion(
  'kind',
  kinds.map(({ schema }) => schema) as never
) as unknown as z.ZodType<DocumentHead>;

/** @throws RangeError for a kind that is none */
export function headKind(id: string): HeadKind {
  const kind = (kinds as readonly unknown[] as readonly HeadKind[]).find((k) => k.kind === id);
  if (!kind) throw new RangeError(`“${id}” is no kind of head.`);
  return kind;
}

/** A head that is one frame, coded unless it is said to be linear. */
export const headOf = (hash: string, encoding: Encoding = 'coded'): SourceHead =>
  sourceHead({ kind: 'frame' }, [{ hash, encoding }], []);

/** Puts a head of a document together with what it is made of. @param keys what each of the pictures depends on */
export function sourceHead(
  of: { kind: string },
  frames: SourceHead['frames'],
  pictures: readonly { readonly picture: SourceHead['pictures'][number]; readonly key: string }[]
): SourceHead {
  const { kind } = of;
  const counts = [kind, headKind(kind).counts(of), frames, pictures.map(({ key }) => key)];
  return {
    ...{ kind, of, frames },
    key: contentKey(JSON.stringify(counts)),
    pictures: pictures.map(({ picture }) => picture)
  };
}

/** @throws DocumentError where its parts do not fit together */
export const headShape = (
  source: SourceHead,
  frameOf: (hash: string) => Frame,
  pictures: readonly (HeadShape & { readonly name: string })[]
): HeadShape =>
  headKind(source.kind).shape(
    source as never,
    source.frames.map(({ hash }) => frameOf(hash)),
    pictures
  );

/** Fills `out` with samples of a head at a level. @param pictures those that it is made of, over the same rectangle */
export const readHead = (
  source: SourceHead,
  frameOf: (hash: string) => Frame,
  pictures: readonly Raster[],
  level: number,
  out: Raster,
  solution: object | null = null
): void =>
  headKind(source.kind).read(
    source as never,
    source.frames.map(({ hash }) => frameOf(hash)),
    pictures,
    level,
    out,
    solution
  );
