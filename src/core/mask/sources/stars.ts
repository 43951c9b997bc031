import { z } from 'zod';
import { referenceSchema } from '../../document/ids';
import type { FoundStar } from '../../measure/star-find';
import { pixels } from '../../ops/fields';
import { starFields } from '../../ops/star-fields';
import { said } from '../../ops/fields';
import { shown } from '../../ops/controls';
import { defineSource } from './source';

const schema = z.strictObject({
  kind: z.literal('stars'),
  ...starFields,
  /** How much further than its light is seen each reaches. */
  grow: pixels(-20, 100)
    .register(shown, { label: 'grow by', unit: 'px', slider: [-5, 30], step: 0.5, digits: 1 })
    .default(2),
  of: referenceSchema.optional()
});

interface Disc {
  readonly x: number;
  readonly y: number;
  readonly radius: number;
}

/** The stars of what comes into the step, or of another picture: 1 on each, with an edge of a sample. */
export const stars = defineSource<typeof schema, { discs: readonly Disc[]; of: number | null }>({
  kind: 'stars',
  title: 'Stars',
  schema,
  around: 'where its stars are',
  fresh: () => ({ kind: 'stars', threshold: 5, largest: 30, grow: 2 }),
  words: ({ threshold, of }, names) =>
    `stars over ${said(threshold)} σ${of ? ` of ${names.picture(of)}` : ''}`,
  uses: ({ of }) => (of ? { key: 'of', used: of } : null),
  use(source, used) {
    if ('picture' in used) source.of = { ...used };
  },
  solvedBy: ({ threshold, largest }) => ({
    op: 'stars',
    params: { keep: 'rest', threshold, largest, grow: 0, added: [], removed: [] }
  }),
  prepare({ grow, of }, { picture, solved }) {
    const { stars: found } = solved as { stars: readonly FoundStar[] };
    const discs = found.flatMap(({ x, y, radius }) =>
      radius + grow > 0 ? [{ x, y, radius: radius + grow }] : []
    );
    return { discs, of: of ? picture(of) : null };
  },
  fill({ discs }, { x, y, width, height, scale, n }, out) {
    out.fill(0, 0, n);
    for (const disc of discs) {
      const [cx, cy, radius] = [disc.x * scale - x, disc.y * scale - y, disc.radius * scale];
      // Of what is smaller than a sample, the part of it that it covers.
      const most = Math.min(1, Math.PI * radius * radius);
      const reach = radius + 0.5;
      for (let j = Math.max(0, Math.floor(cy - reach)); j < Math.min(height, cy + reach); j++)
        for (let i = Math.max(0, Math.floor(cx - reach)); i < Math.min(width, cx + reach); i++) {
          const covered = Math.min(most, reach - Math.hypot(i + 0.5 - cx, j + 0.5 - cy));
          const at = j * width + i;
          if (covered > out[at]) out[at] = covered;
        }
    }
  },
  absent: ({ of }, ground) => ground.absent(of)
});
