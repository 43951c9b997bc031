import { z } from 'zod';
import { channelOf } from '../../colour';
import { channelId, referenceSchema } from '../../document/ids';
import { fillLayer, layersReach, levelOf, MOST_LAYERS } from '../../spatial/a-trous';
import { defineSource } from './source';

const schema = z.strictObject({
  kind: z.literal('scale'),
  channel: channelId.default('lum'),
  /** Which layer, counted from 0, the finest. */
  layer: z
    .int({ error: 'must be a whole number (0 is the finest)' })
    .min(0, 'must be at least 0')
    .max(MOST_LAYERS - 1, `must be at most ${MOST_LAYERS - 1}`),
  of: referenceSchema.optional()
});

interface Prepared {
  readonly id: string;
  readonly layer: number;
  readonly of: number | null;
  readonly times: number;
}

/** What of a channel is of one size, as it is seen alone in In. */
export const scale = defineSource<typeof schema, Prepared>({
  kind: 'scale',
  title: 'Scale',
  schema,
  around: 'neighbours (a scale)',
  fresh: ({ channel }) => ({ kind: 'scale', channel, layer: 4 }),
  words({ channel, layer, of }, names) {
    const { name, ink } = channelOf(channel);
    return `${2 ** layer} px of ${name}${ink ? ' ink' : ''}${of ? ` of ${names.picture(of)}` : ''}`;
  },
  uses: ({ of }) => (of ? { key: 'of', used: of } : null),
  use(source, used) {
    if ('picture' in used) source.of = { ...used };
  },
  solvedBy: ({ channel, layer }) => ({ op: '(scale)', params: { channel, layer } }),
  prepare({ channel: id, layer, of }, { picture, solved }) {
    const { times } = solved as { times: number };
    return { id, layer, of: of ? picture(of) : null, times };
  },
  reach: ({ layer }, size) => layersReach(Math.max(0, layer + 1 - levelOf(size))),
  fill({ id, layer, of, times }, ground, out) {
    const plane = ground.channel(id, of);
    fillLayer(plane, ground, layer - levelOf(ground.scale), times, out);
  },
  absent: ({ of }, ground) => ground.absent(of)
});
