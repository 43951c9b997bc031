import { shown } from './controls';
import { z } from 'zod';
import { channelOf, channels, fillChannels } from '../colour';
import { takePlane } from '../kernels/arena';
import { said, weight } from './fields';
import { defineOp } from './op';

const channelId = z.enum(channels.map((c) => c.id) as [string, ...string[]]);
/** Below this, the weights' sum is taken for none and `normalize` leaves them alone. */
const NO_SUM = 0.01;

const asPart = { unit: '%', slider: [-200, 200], worth: 0.01 } as const;

const params = z.strictObject({
  weights: z
    .partialRecord(channelId, weight.clone().register(shown, { ...asPart, label: 'weight' }))
    .default({ 'rgb.r': 0.3, 'rgb.g': 0.59, 'rgb.b': 0.11 }),
  constant: weight
    .clone()
    .register(shown, { ...asPart, label: 'constant' })
    .default(0),
  normalize: z.boolean().default(false)
});
export type MonoParams = z.infer<typeof params>;

/** Sum of the weights, without the constant. */
export const monoTotal = ({ weights }: Pick<MonoParams, 'weights'>): number =>
  Object.values(weights).reduce<number>((sum, w) => sum + (w ?? 0), 0);

/** Weights of red, green and blue that stand for coloured glass before the lens; each totals 100 %. */
export const glasses: readonly { title: string; weights: Readonly<Record<string, number>> }[] = [
  { title: 'Plain', weights: { 'rgb.r': 0.3, 'rgb.g': 0.59, 'rgb.b': 0.11 } },
  { title: 'Yellow glass', weights: { 'rgb.r': 0.46, 'rgb.g': 0.64, 'rgb.b': -0.1 } },
  { title: 'Orange glass', weights: { 'rgb.r': 0.78, 'rgb.g': 0.4, 'rgb.b': -0.18 } },
  { title: 'Red glass', weights: { 'rgb.r': 1.24, 'rgb.g': -0.06, 'rgb.b': -0.18 } },
  { title: 'Green glass', weights: { 'rgb.r': -0.12, 'rgb.g': 1.2, 'rgb.b': -0.08 } },
  { title: 'Blue glass', weights: { 'rgb.r': -0.14, 'rgb.g': 0.2, 'rgb.b': 0.94 } }
];

interface MonoCoefficients {
  readonly ids: readonly string[];
  readonly weights: readonly number[];
  readonly constant: number;
}

/** Σ weight·channel + constant on the stored values of any channels, as R = G = B. */
export const mono = defineOp<MonoParams, MonoCoefficients>({
  id: 'mono',
  title: 'Black and white',
  purpose: 'Adds channels up to one grey photograph',
  words: [
    'monochrome',
    'grey',
    'greyscale',
    'black-and-white',
    'desaturate',
    'bw',
    'b&w',
    'conversion',
    'glass',
    'red filter'
  ],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  sentence({ weights, constant }) {
    const parts = Object.entries(weights)
      .filter(([, w]) => w)
      .map(([id, w]) => `${channelOf(id).sign} ${said(100 * (w ?? 0), 0)}`);
    if (constant) parts.push(`constant ${said(100 * constant, 0)}`);
    return parts.length ? `Grey from ${parts.join(', ')} %` : 'No channel gives anything: black';
  },
  prepare({ weights, constant, normalize }) {
    const total = monoTotal({ weights });
    const scale = normalize && Math.abs(total) >= NO_SUM ? 1 / total : 1;
    const used = Object.entries(weights).filter(([, w]) => w);
    return { ids: used.map(([id]) => id), weights: used.map(([, w]) => (w ?? 0) * scale), constant };
  },
  kernel({ planes, encoding, width, height }, { ids, weights, constant }, out) {
    const n = width * height;
    const values = ids.map(() => takePlane(n));
    fillChannels(ids, planes, encoding, values, n);
    const grey = out[0];
    grey.fill(constant, 0, n);
    values.forEach((plane, k) => {
      const w = weights[k];
      for (let i = 0; i < n; i++) grey[i] += w * plane[i];
    });
    out[1].set(grey.subarray(0, n));
    out[2].set(grey.subarray(0, n));
  }
});
