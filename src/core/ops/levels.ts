import { z } from 'zod';
import { quantiles } from '../measure/quantile';
import { fillChannel } from '../colour';
import { inArena, simd } from '../kernels/arena';
import { scaleBy } from '../mask/planes';
import { percent, refusedKey, said, unit } from './fields';
import { defineOp, type Given } from './op';

const one = z
  .strictObject({
    black: unit(-1, 2).default(0),
    mid: z
      .number({ error: 'must be a number' })
      .min(0.05, 'must be at least 0.05')
      .max(20, 'must be at most 20')
      .default(1),
    white: unit(-1, 2).default(1),
    outBlack: unit(-1, 2).default(0),
    outWhite: unit(-1, 2).default(1)
  })
  .refine(({ black, white }) => Math.abs(white - black) >= 1e-4, {
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
    .strictObject({ clip: percent(0, 20) })
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
  } else if (inArena([source, out])) {
    const power = 1 / mid;
    const near = Math.fround(black);
    const [from, to] = [source.byteOffset, out.byteOffset];
    simd.levelsPlane(from, to, n, near, black - near, scale, power, outBlack, span, FIRST ** (power - 1));
  } else for (let i = 0; i < n; i++) out[i] = levelsAt(of, source[i]);
}

/** Each channel's own levels and the ones for all, in the order in which they act. */
type LevelsCoefficients = readonly (readonly LevelsOf[])[];

function solvedLevels({ channels, auto }: LevelsParams, given: Given): LevelsOf[][] {
  return given.channels.map(({ id, letter }) => {
    const own = channels[letter] ?? plainLevels;
    const list: LevelsOf[] = [];
    if (auto) {
      const { planes, n } = given.analysis();
      const plane = new Float32Array(n);
      fillChannel(id, planes, given.encoding, plane, n);
      const [black, white] = quantiles(plane, n, [auto.clip / 100, 1 - auto.clip / 100]);
      list.push(white - black >= 1e-4 ? { ...own, black, white } : { ...own, black: 0, white: 1 });
    } else list.push(own);
    if (channels['all']) list.push(channels['all']);
    return list;
  });
}

export const levels = defineOp<LevelsParams, LevelsCoefficients>({
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
  whole: ({ auto }) => auto !== null,
  prepare: (params, given) =>
    solvedLevels(params, given).map((list) => list.filter((of, i) => i === 0 || !isPlain(of))),
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
