import { shown } from './controls';
import { z } from 'zod';
import { isAllTones, limit, type Trapezoid } from '../blend/limits';
import { blendGrey, blendModes, type BlendMode } from '../blend/modes';
import { channelOf, fillChannel } from '../colour';
import { channelId, maskSchema, referenceSchema } from '../document/mask';
import { trapezoidSchema } from '../document/tones';
import { takePlane } from '../kernels/arena';
import { fade, multiplyBy, scaleBy } from '../mask/planes';
import { said, unit } from './fields';
import { defineOp, paramsOf } from './op';

const entry = z.strictObject({
  /** Whose channel; the step's own input where it is left out. */
  from: referenceSchema.optional(),
  channel: channelId,
  mode: z.enum(blendModes).default('normal'),
  opacity: unit().register(shown, { label: 'opacity', unit: '%', worth: 0.01 }).default(1),
  under: trapezoidSchema.default([0, 0, 1, 1]),
  over: trapezoidSchema.default([0, 0, 1, 1]),
  where: maskSchema.nullable().default(null)
});
const params = z.strictObject({
  stack: z.array(entry).max(32, 'takes at most 32 entries').default([])
});
export type ChannelParams = z.infer<typeof params>;
export type ChannelEntry = ChannelParams['stack'][number];

interface PreparedEntry {
  readonly channel: string;
  readonly ink: boolean;
  readonly mode: BlendMode;
  readonly opacity: number;
  readonly under: Trapezoid;
  readonly over: Trapezoid;
  /** Places in what the op takes; −1 for the step's own input and for everywhere. */
  readonly picture: number;
  readonly mask: number;
}

/**
 * Channels blended in order on each other make one grey picture, from the luminance of the input on; inks count as they lie
 * on paper, much ink is dark. Limits of an entry are tested on the grey before it and on its channel.
 */
export const channel = defineOp<ChannelParams, readonly PreparedEntry[]>({
  id: 'channel',
  title: 'Channel light',
  purpose: 'Builds the picture’s light out of its best channels, stacked and blended',
  words: [
    'luminosity',
    'light',
    'structure',
    'contrast',
    'layer',
    'stack',
    'overlay',
    'soft light',
    'portrait'
  ],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  takes: ({ stack }) =>
    stack.flatMap(({ from, where }) => [
      ...(from ? [{ picture: from }] : []),
      ...(where ? [{ mask: where }] : [])
    ]),
  mapMasks: ({ stack }, change) => ({
    stack: stack.map((e) => (e.where ? { ...e, where: change(e.where) } : e))
  }),
  sentence({ stack }) {
    if (stack.length === 0) return 'Light from its own luminance';
    const told = stack.map(({ channel: id, mode, opacity }, i) => {
      const how = [...(i > 0 || mode !== 'normal' ? [mode.replace('-', ' ')] : [])];
      if (opacity !== 1) how.push(`${said(100 * opacity, 0)} %`);
      return `${channelOf(id).name}${how.length ? ` (${how.join(' ')})` : ''}`;
    });
    return `Light from ${told.join(', then ')}`;
  },
  prepare({ stack }) {
    let next = 0;
    return stack.map(({ from, where, channel: id, mode, opacity, under, over }) => ({
      channel: id,
      ink: channelOf(id).ink ?? false,
      mode,
      opacity,
      under,
      over,
      picture: from ? next++ : -1,
      mask: where ? next++ : -1
    }));
  },
  kernel({ planes, encoding, width, height, taken, absent }, entries, out) {
    const n = width * height;
    const grey = takePlane(n);
    const value = takePlane(n);
    const amount = takePlane(n);
    fillChannel('lum', planes, encoding, grey, n);
    for (const { channel: id, ink, mode, opacity, under, over, picture, mask } of entries) {
      fillChannel(id, picture < 0 ? planes : taken[picture], encoding, value, n);
      if (ink) scaleBy(value, -1, 1, n);
      const nowhere = picture < 0 ? null : absent[picture];
      const whole = opacity === 1 && mask < 0 && isAllTones(under) && isAllTones(over) && !nowhere;
      if (whole) {
        blendGrey(mode, grey, value, n);
        grey.set(value.subarray(0, n));
        continue;
      }
      amount.fill(opacity, 0, n);
      if (mask >= 0) multiplyBy(amount, taken[mask][0], n);
      if (!isAllTones(under)) limit(amount, grey, under, n);
      if (!isAllTones(over)) limit(amount, value, over, n);
      for (const i of nowhere ?? []) amount[i] = 0;
      blendGrey(mode, grey, value, n);
      fade(grey, value, amount, n);
    }
    out.forEach((plane) => plane.set(grey.subarray(0, n)));
  }
});

/** The entries of a step, where it is one that has some. */
export const stackOf = (step: { readonly op: string; readonly params: unknown }): readonly ChannelEntry[] =>
  step.op === channel.id ? paramsOf(channel, step).stack : [];
