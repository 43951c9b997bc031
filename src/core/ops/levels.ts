import { shown } from './controls';
import { z } from 'zod';
import { quantiles } from '../measure/quantile';
import { samplesOf } from '../measure/seen';
import { fillChannel } from '../colour';
import { eitherWay, simd } from '../kernels/arena';
import { scaleBy } from '../mask/planes';
import { percent, refusedKey, said, unit } from './fields';
import { defineOp, type Solving } from './op';

/** Black and white lie so far apart, at least. */
const LEAST_RANGE = 1e-4;

/** A stored value of the channel; a panel shows it as the channel is read out. */
const end = (label: string): z.ZodNumber => unit(-1, 2).register(shown, { label, unit: '', slider: [0, 1] });

const one = z
  .strictObject({
    black: end('black').default(0),
    mid: z
      .number({ error: 'must be a number' })
      .min(0.05, 'must be at least 0.05')
      .max(20, 'must be at most 20')
      .register(shown, { label: 'middle', unit: '', slider: [0.2, 4], step: 0.01 })
      .default(1),
    white: end('white').default(1),
    outBlack: end('out black').default(0),
    outWhite: end('out white').default(1)
  })
  .refine(({ black, white }) => Math.abs(white - black) >= LEAST_RANGE, {
    path: ['white'],
    error: 'must differ from black'
  });
export type LevelsOf = z.infer<typeof one>;
export const plainLevels: LevelsOf = { black: 0, mid: 1, white: 1, outBlack: 0, outWhite: 1 };

const isPlain = (of: LevelsOf): boolean =>
  Object.entries(plainLevels).every(([key, v]) => of[key as keyof LevelsOf] === v);

const params = z.strictObject({
  channels: z.record(z.string(), one).default({}),
  /** Black and white of each channel at so many percent of its own samples, instead of the numbers. */
  auto: z
    .strictObject({
      clip: percent(0, 20).register(shown, {
        ...{ label: 'clip', unit: '%', slider: [0, 5], step: 0.1, grain: 0.05 }
      })
    })
    .nullable()
    .default(null)
});
export type LevelsParams = z.infer<typeof params>;

/** (x − black)/(white − black), then ^(1/mid), then into outBlack…outWhite. Odd below black, as the power is. */
export function levelsAt({ black, mid, white, outBlack, outWhite }: LevelsOf, x: number): number {
  const t = (x - black) / (white - black);
  const u = mid === 1 ? t : powered(t, 1 / mid);
  return outBlack + u * (outWhite - outBlack);
}

/** t^p up to 1, straight on beyond it with the slope it has there; below 0 with the slope of its first hundredth. */
function powered(t: number, p: number): number {
  if (t > 1) return 1 + p * (t - 1);
  if (t >= 0) return t ** p;
  return t * FIRST ** (p - 1);
}

/** The slope below 0 is that of the first hundredth. */
const FIRST = 0.01;

function run(of: LevelsOf, source: Float32Array, out: Float32Array, n: number): void {
  const { black, mid, white, outBlack, outWhite } = of;
  const scale = 1 / (white - black);
  const span = outWhite - outBlack;
  if (mid === 1) {
    if (source !== out) out.set(source.subarray(0, n));
    scaleBy(out, scale * span, outBlack - black * scale * span, n);
    return;
  }
  const power = 1 / mid;
  const near = Math.fround(black);
  const below = FIRST ** (power - 1);
  eitherWay(
    [source, out],
    (from, to) => simd.levelsPlane(from, to, n, near, black - near, scale, power, outBlack, span, below),
    () => {
      for (let i = 0; i < n; i++) out[i] = levelsAt(of, source[i]);
    }
  );
}

/** Each channel's own levels and the ones for all, in the order in which they act. */
type LevelsCoefficients = readonly (readonly LevelsOf[])[];

/** Black and white of each channel of On; null for one that has no range. */
type Solution = readonly (readonly [black: number, white: number] | null)[];

export const levels = defineOp<LevelsParams, LevelsCoefficients, Solution, { clip: number }>({
  id: 'levels',
  title: 'Levels',
  purpose: 'Sets black, white and the middle of each channel',
  words: [
    'black point',
    'white point',
    'gamma',
    'brightness',
    'exposure',
    'brighter',
    'darker',
    'contrast',
    'tone',
    'auto',
    'range',
    'stretch'
  ],
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  sentence({ channels, auto }) {
    if (auto) return `Each channel from its darkest ${said(auto.clip, 2)} % to its brightest`;
    const count = Object.keys(channels).length;
    if (count === 0) return 'Black and white as they are';
    const middles = Object.values(channels).every((of) => of.mid !== 1 && isPlain({ ...of, mid: 1 }));
    const what = middles ? 'Middle moved' : 'Black and white set';
    if ('all' in channels && count === 1) return `${what} for all`;
    return `${what} on ${count} ${count > 1 ? 'channels' : 'channel'}`;
  },
  needs: ({ auto }) => auto,
  *solve({ clip }, { channels, encoding, analysis }): Solving<Solution> {
    const { planes, n } = samplesOf(yield* analysis());
    const plane = new Float32Array(n);
    return channels.map(({ id }) => {
      fillChannel(id, planes, encoding, plane, n);
      const [black, white] = quantiles(plane, n, [clip / 100, 1 - clip / 100]);
      return white - black >= LEAST_RANGE ? [black, white] : null;
    });
  },
  prepare: ({ channels: given }, { channels }, solution) =>
    channels.map(({ letter }, c) => {
      const own = given[letter] ?? plainLevels;
      const [black, white] = solution?.[c] ?? [0, 1];
      const all = given['all'] ?? plainLevels;
      return [solution ? { ...own, black, white } : own, ...(isPlain(all) ? [] : [all])];
    }),
  solved: (coefficients) => ({ levels: coefficients.map((list) => list[0]) }),
  refuses: ({ channels }, model) => refusedKey('channels', channels, model, ['all']),
  kernel({ planes, width, height }, coefficients, out) {
    const n = width * height;
    planes.forEach((plane, c) => {
      let source = plane;
      for (const of of coefficients[c]) {
        if (isPlain(of) && source === out[c]) continue;
        run(of, source, out[c], n);
        source = out[c];
      }
    });
  }
});
