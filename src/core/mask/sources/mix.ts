import { z } from 'zod';
import { channelOf } from '../../colour';
import { channelId } from '../../document/ids';
import { said } from '../../ops/fields';
import { addTo } from '../planes';
import { defineSource } from './source';

const schema = z.strictObject({
  kind: z.literal('mix'),
  weights: z.partialRecord(channelId, z.number()),
  constant: z.number().default(0)
});

/** The weighted sum of channels. */
export const mix = defineSource<typeof schema, { weights: [string, number][]; constant: number }>({
  kind: 'mix',
  title: 'Mix of channels',
  schema,
  sees: true,
  fresh: () => ({ kind: 'mix', weights: { 'rgb.r': 1, 'rgb.b': -1 }, constant: 0.5 }),
  words: ({ weights }) =>
    Object.entries(weights)
      .map(([id, w], i) => `${i && w! >= 0 ? '+ ' : ''}${said(100 * w!, 0)} % ${channelOf(id).name}`)
      .join(' '),
  prepare: ({ weights, constant }) => ({ weights: Object.entries(weights) as [string, number][], constant }),
  channels: ({ weights }) => weights.map(([id]) => id),
  fill({ weights, constant }, ground, out) {
    out.fill(constant, 0, ground.n);
    for (const [id, weight] of weights) addTo(out, ground.channel(id), weight, ground.n);
  }
});
