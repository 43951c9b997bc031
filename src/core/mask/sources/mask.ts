import { z } from 'zod';
import { idSchema } from '../../document/ids';
import type { PreparedMask } from '../prepare';
import { defineSource } from './source';

const schema = z.strictObject({ kind: z.literal('mask'), id: idSchema });

/** A named mask of the document. */
export const mask = defineSource<typeof schema, PreparedMask>({
  kind: 'mask',
  title: 'Named mask',
  schema,
  bound: 'a named mask',
  fresh: ({ mask: id }) => (id === null ? null : { kind: 'mask', id }),
  words: ({ id }, names) => `mask “${names.mask(id)}”`,
  uses: ({ id }) => ({ key: 'id', used: { mask: id } }),
  use(source, used) {
    if ('mask' in used) source.id = used.mask;
  },
  prepare: ({ id }, given) => given.mask(id),
  fill: (prepared, ground, out) => ground.namedMask(prepared, out),
  within: (prepared) => [prepared]
});
