import { z } from 'zod';
import { idSchema } from '../document/ids';
import { throughTable, type Interpolation, type Table } from '../lut/table';
import { defineOp } from './op';

const params = z.strictObject({
  /** Id of one of the document's tables. */
  table: idSchema.nullable().default(null),
  interpolation: z.enum(['tetrahedral', 'trilinear']).default('tetrahedral')
});
export type LutParams = z.infer<typeof params>;

interface Coefficients {
  readonly table: Table | null;
  readonly by: Interpolation;
}

/** The candidate is what a colour look-up table makes of the values as they stand; beyond its domain they are held at its edge. */
export const lut = defineOp<LutParams, Coefficients>({
  id: 'lut',
  title: 'LUT',
  purpose: 'Puts the colours through a table of another program, or of Kromba’s own',
  words: ['cube', 'lookup table', 'look-up', '3d lut', 'film', 'grade', 'table'],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  takes: ({ table }) => (table === null ? [] : [{ table }]),
  sentence: ({ table, interpolation }) =>
    table === null
      ? 'A table, not chosen yet'
      : `Colours through a table${interpolation === 'trilinear' ? ', trilinear' : ''}`,
  prepare: ({ table, interpolation }, { tableOf }) => ({
    table: table === null ? null : tableOf(table),
    by: interpolation
  }),
  idle: ({ table }) => table === null,
  kernel({ planes, width, height }, { table, by }, out) {
    if (table) throughTable(table, planes, out, width * height, by);
  }
});
