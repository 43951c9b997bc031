import { z } from 'zod';
import { said } from '../../ops/fields';
import { addTo } from '../planes';
import { defineSource } from './source';

const schema = z.strictObject({
  kind: z.literal('toward'),
  hue: z.number(),
  across: z.boolean().default(false)
});

/** How far a* and b* lie in the direction of a hue, or across it. */
export const toward = defineSource<typeof schema, { x: number; y: number }>({
  kind: 'toward',
  title: 'Toward a hue',
  schema,
  sees: true,
  fresh: () => ({ kind: 'toward', hue: 40, across: false }),
  words: ({ hue, across }) => `${across ? 'across' : 'toward'} hue ${said(hue, 0)}°`,
  prepare({ hue, across }) {
    const angle = ((hue + (across ? 90 : 0)) * Math.PI) / 180;
    return { x: Math.cos(angle), y: Math.sin(angle) };
  },
  fill({ x, y }, ground, out) {
    // The stored values lie about 0.5 and count 1/256 a unit, as the source's own do.
    out.fill(0.5 - 0.5 * (x + y), 0, ground.n);
    addTo(out, ground.channel('lab.a'), x, ground.n);
    addTo(out, ground.channel('lab.b'), y, ground.n);
  }
});
