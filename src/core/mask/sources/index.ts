import { z } from 'zod';
import { channel } from './channel';
import { distance } from './distance';
import { mask } from './mask';
import { mix } from './mix';
import { paint } from './paint';
import { ramp } from './ramp';
import { scale } from './scale';
import type { SourceKind } from './source';
import { stars } from './stars';
import { toward } from './toward';

export type { Stroke } from './paint';
export type { Beginning, Names, Preparing, SourceKind } from './source';

/** Every source there is, in the order in which they are offered. */
const kinds = [channel, mix, distance, toward, scale, stars, paint, ramp, mask] as const;

type SchemasOf<T extends readonly { readonly schema: z.ZodObject }[]> = {
  -readonly [K in keyof T]: T[K]['schema'];
};
export const sourceSchema = z.discriminatedUnion(
  'kind',
  kinds.map(({ schema }) => schema) as unknown as SchemasOf<typeof kinds>
);
export type MaskSource = z.infer<typeof sourceSchema>;
export type Kind = MaskSource['kind'];

export const sourceKinds = kinds as unknown as readonly (SourceKind & { readonly kind: Kind })[];

export const sourceKind = (kind: Kind): SourceKind => sourceKinds.find((s) => s.kind === kind)!;
