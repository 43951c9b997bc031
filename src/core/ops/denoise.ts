import { z } from 'zod';
import { inRoom, takePlane } from '../kernels/arena';
import { noiseCurves, scaledCurve, type NoiseCurve } from '../measure/noise-curve';
import { denoisePlane, denoiseReach } from '../spatial/denoise';
import { filled } from '../spatial/fill';
import { BLOCK } from '../spatial/shrink-blocks';
import { channelsRead } from './channel-noise';
import { shown } from './controls';
import { eachPlane } from './each-plane';
import { oneOrEach, refusedKey, said, valueOf } from './fields';
import { defineOp, type Asked, type Solving } from './op';

const times = (most: number): z.ZodNumber =>
  z
    .number({ error: 'must be a number (1 is as measured)' })
    .min(0, 'must be at least 0')
    .max(most, `must be at most ${most} (1 is as measured)`);

/** The coarsest noise that is taken out, in full-size pixels: blocks of 8 at full size, at halves, quarters, eighths. */
export const COARSEST = [8, 16, 32, 64] as const;

const params = z.strictObject({
  /** How much of the noise that was measured is taken out. */
  strength: oneOrEach(
    times(4).register(shown, { label: 'strength', unit: '%', slider: [0, 200], worth: 0.01, times: true })
  ).default(1),
  /** How much of what is hardly stronger than the noise is kept. */
  detail: oneOrEach(
    times(2).register(shown, { label: 'faint detail', unit: '%', slider: [0, 200], worth: 0.01, times: true })
  ).default(1),
  coarsest: z
    .literal(COARSEST, { error: `must be ${COARSEST.slice(0, -1).join(', ')} or ${COARSEST.at(-1)} px` })
    .default(32)
});
export type DenoiseParams = z.infer<typeof params>;

/** Coefficients of a block under so many σ hold nothing, at a detail of 1; twice as many at 0, half at 2. */
const THRESHOLD = 2.5;

export interface DenoiseSolution {
  /** A channel of On each. */
  readonly noise: readonly NoiseCurve[];
}
interface DenoiseCoefficients extends DenoiseSolution {
  readonly coarsest: number;
  readonly strengths: readonly number[];
  readonly thresholds: readonly number[];
  /** What is colour alone takes half of the blocks: the eye sees it less sharply. */
  readonly rows: readonly (1 | 2)[];
}

const scalesAt = (coarsest: number, scale: number): number =>
  Math.max(0, Math.round(Math.log2((coarsest * scale) / BLOCK)) + 1);

/** Noise measured at full size and taken out of each channel by itself. */
export const denoise = defineOp<DenoiseParams, DenoiseCoefficients, DenoiseSolution, { curves: true }>({
  id: 'denoise',
  title: 'Take noise out',
  purpose: 'Measures the noise and takes it out; edges and faint detail stay',
  words: ['denoise', 'noise reduction', 'grain', 'clean', 'smooth', 'astro', 'high iso'],
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  reach: ({ coarsest }, scale) => denoiseReach(scalesAt(coarsest, scale)),
  settles: () => true,
  sentence: ({ strength, coarsest }) =>
    typeof strength === 'number'
      ? `Take out ${said(100 * strength, 0)} % of the noise up to ${coarsest} px`
      : `Take out noise up to ${coarsest} px, of each channel its own part`,
  idle: ({ strength }) => strength === 0,
  refuses: ({ strength, detail }, model) =>
    refusedKey('strength', strength, model) ?? refusedKey('detail', detail, model),
  needs: () => ({ curves: true }),
  *solve(_, asked: Asked): Solving<DenoiseSolution> {
    return { noise: yield* noiseCurves(asked.size, channelsRead(asked)) };
  },
  prepare: ({ strength, detail, coarsest }, { channels }, solution) => ({
    coarsest,
    noise: solution?.noise ?? [],
    strengths: channels.map((c) => valueOf(strength, c.letter, 1)),
    thresholds: channels.map((c) => THRESHOLD * 2 ** (1 - valueOf(detail, c.letter, 1))),
    rows: channels.map(({ id }) => (id === 'lab.a' || id === 'lab.b' ? 2 : 1))
  }),
  solved: ({ noise }) => ({ noise }),
  kernel(source, { coarsest, noise, strengths, thresholds, rows }, out) {
    const n = source.width * source.height;
    const scales = scalesAt(coarsest, source.scale);
    const run = (plane: Float32Array, to: Float32Array, c: number): void => {
      const strength = strengths[c] * source.scale;
      const curve = noise[c];
      if (scales === 0 || strength === 0 || !curve?.sigmas.some((sigma) => sigma > 0))
        return void to.set(plane.subarray(0, n));
      inRoom(() => {
        const made = takePlane(n);
        const { x, y, width, height, present } = source;
        const came = present
          ? filled({ x, y, width, height, plane }, present, scales + 1)
          : plane.subarray(0, n);
        const how = { noise: scaledCurve(curve, strength), threshold: thresholds[c], scales, rows: rows[c] };
        const goOn = source.goOn ?? ((): void => undefined);
        denoisePlane({ x, y, width, height, plane: came }, made, how, goOn, source.needed);
        to.set(made.subarray(0, n));
      });
    };
    const numbersOf = (c: number): string => JSON.stringify([strengths[c], thresholds[c], rows[c], noise[c]]);
    eachPlane(source, out, run, (c, other) => numbersOf(c) === numbersOf(other));
  }
});
