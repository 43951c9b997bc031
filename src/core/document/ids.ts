import { z } from 'zod';
import { channels } from '../colour';

export const idSchema = z.string().min(1, 'must not be empty').max(64);
export const channelId = z.enum(channels.map((c) => c.id) as [string, ...string[]]);

/** A picture at one place of its path: its end, its head, or after one of its steps. */
export const referenceSchema = z.strictObject({ picture: idSchema, after: z.string().min(1).optional() });
export type Reference = z.infer<typeof referenceSchema>;

/** A reference as a key. */
export const referenceKey = ({ picture, after }: Reference): string => `${picture}/${after ?? ''}`;

/** Something that a document's parts refer to: a picture, at one place of its path or anywhere, a named mask, or a table. */
export type Used =
  | { readonly picture: string; readonly after?: string }
  | { readonly mask: string }
  | { readonly table: string };
