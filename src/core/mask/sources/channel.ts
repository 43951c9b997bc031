import { z } from 'zod';
import { channelOf } from '../../colour';
import { channelId, referenceSchema } from '../../document/ids';
import { defineSource } from './source';

const schema = z.strictObject({
  kind: z.literal('channel'),
  channel: channelId,
  of: referenceSchema.optional()
});

/** A channel of what comes into the step, or of another picture. */
export const channel = defineSource<typeof schema, { id: string; of: number | null }>({
  kind: 'channel',
  title: 'Channel',
  schema,
  sees: true,
  wraps: ({ channel: id }) => channelOf(id).readout.unit === '°',
  fresh: ({ channel: id }) => ({ kind: 'channel', channel: id }),
  words({ channel: id, of }, names) {
    const { name, ink } = channelOf(id);
    return `${name}${ink ? ' ink' : ''}${of ? ` of ${names.picture(of)}` : ''}`;
  },
  uses: ({ of }) => (of ? { key: 'of', used: of } : null),
  use(source, used) {
    if ('picture' in used) source.of = { ...used };
  },
  prepare: ({ channel: id, of }, { picture }) => ({ id, of: of ? picture(of) : null }),
  channels: ({ id, of }) => (of === null ? [id] : []),
  fill: ({ id, of }, ground, out) => out.set(ground.channel(id, of).subarray(0, ground.n)),
  absent: ({ of }, ground) => ground.absent(of)
});
