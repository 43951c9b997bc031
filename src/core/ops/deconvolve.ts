import { z } from 'zod';
import type { Channel, Planes } from '../colour';
import { decodePlane } from '../colour/code-planes';
import { inRoom, takePlane } from '../kernels/arena';
import type { Seen } from '../measure/seen';
import { greyOf } from '../measure/star-places';
import { spreadOfStars, type MeasuredSpread } from '../measure/star-spread';
import { holdRings, ringsReach } from '../spatial/dark-rings';
import {
  SIGMA_WIDTH,
  SPREAD_BOUNDS,
  spreadProducts,
  spreadReach,
  type PointSpread
} from '../spatial/point-spread';
import { deconvolveReach, richardsonLucy, type DeconvolveHow } from '../spatial/richardson-lucy';
import { channelLight } from './channel-light';
import { channelNoise } from './channel-noise';
import { shown } from './controls';
import { eachPlane } from './each-plane';
import { degrees, pixels, said, unit } from './fields';
import { defineOp, type Asked, type Patch, type Solving } from './op';

const { fwhm: WIDTHS, beta: FEET, ratio: RATIOS } = SPREAD_BOUNDS;

const spread = z.strictObject({
  kind: z.enum(['gauss', 'moffat', 'stars']).default('gauss'),
  fwhm: pixels(...WIDTHS)
    .register(shown, { label: 'width', unit: 'px', slider: [1, 10], step: 0.1, digits: 2 })
    .default(3),
  beta: z
    .number({ error: 'must be a number' })
    .min(FEET[0], `must be at least ${FEET[0]}`)
    .max(FEET[1], `must be at most ${FEET[1]}`)
    .register(shown, { label: 'foot', unit: '', step: 0.1, digits: 2, slider: [1.5, 6] })
    .default(3.5),
  ratio: unit(...RATIOS)
    .register(shown, { label: 'roundness', unit: '%', worth: 0.01, slider: [50, 100] })
    .default(1),
  angle: degrees(-180, 180)
    .register(shown, { label: 'turned by', unit: '°', slider: [-90, 90] })
    .default(0)
});

const params = z.strictObject({
  psf: spread.prefault({}),
  iterations: z
    .int('must be a whole number')
    .min(1, 'must be at least 1')
    .max(100, 'must be at most 100')
    .register(shown, { label: 'iterations', unit: '', step: 1, grain: 1, digits: 0, slider: [2, 60] })
    .default(20),
  /** λ of the total variation. */
  smoothness: unit(0, 0.1)
    .register(shown, { label: 'hold noise', unit: '', step: 0.001, digits: 3, slider: [0, 0.05] })
    .default(0),
  /** How much of the dark rings about stars is held back. */
  rings: unit().register(shown, { label: 'hold rings', unit: '%', worth: 0.01 }).default(0)
});
export type DeconvolveParams = z.infer<typeof params>;

export interface DeconvolveNeed {
  readonly spread: boolean;
  readonly noise: boolean;
}
export interface DeconvolveSolution {
  readonly measured: MeasuredSpread | null;
  /** σ of the light of each channel of On; empty where it is not asked for. */
  readonly noise: readonly number[];
}
export interface DeconvolveCoefficients extends DeconvolveSolution {
  readonly params: DeconvolveParams;
  readonly psf: PointSpread | null;
  readonly channels: readonly Channel[];
}

/** What lies further than so many σ of all the spreads together is not felt, however many iterations there are. */
const FELT = 10;

/** Each iteration spreads twice; the spreads add up as their squares do. A Moffat's foot counts for a wider σ. */
function feltReach(psf: PointSpread, how: DeconvolveHow): number {
  const reach = spreadReach(psf);
  const sigma = (psf.fwhm / Math.sqrt(psf.ratio)) * (psf.kind === 'gauss' ? 1 / SIGMA_WIDTH : 0.6);
  const felt = Math.ceil(FELT * sigma * Math.sqrt(2 * how.iterations)) + 2 * reach;
  return Math.min(deconvolveReach(reach, how), felt);
}

const atScale = (psf: PointSpread, scale: number): PointSpread => ({ ...psf, fwhm: psf.fwhm * scale });

/** Sharpens by undoing how the light of each point was spread. */
export const deconvolve = defineOp<
  DeconvolveParams,
  DeconvolveCoefficients,
  DeconvolveSolution,
  DeconvolveNeed
>({
  id: 'deconvolve',
  title: 'Sharpen by the point-spread',
  purpose: 'Undoes how air, lens and sensor have spread the light of each point',
  words: [
    'deconvolution',
    'deconvolve',
    'richardson',
    'lucy',
    'psf',
    'seeing',
    'stars',
    'sharpen',
    'focus',
    'blur',
    'astro'
  ],
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  reach({ rings, ...how }, scale, prepared) {
    const psf = prepared ? prepared.psf : asSpread(how.psf);
    if (!psf) return 0;
    const own = atScale(psf, scale);
    return feltReach(own, how) + (rings > 0 ? ringsReach(own) : 0);
  },
  settles: () => true,
  sentence({ psf, iterations, smoothness, rings }) {
    const by =
      psf.kind === 'stars'
        ? 'the spread of its own stars'
        : `a ${psf.kind === 'gauss' ? 'Gaussian' : 'Moffat'} ${said(psf.fwhm, 2)} px wide`;
    const held = [smoothness > 0 ? 'noise held' : '', rings > 0 ? 'rings held' : ''].filter(Boolean);
    return `Sharpen by ${by}, ${iterations} iterations${held.length > 0 ? `, ${held.join(', ')}` : ''}`;
  },
  needs({ psf, rings }) {
    const need = { spread: psf.kind === 'stars', noise: rings > 0 };
    return need.spread || need.noise ? need : null;
  },
  *solve(need, asked): Solving<DeconvolveSolution> {
    return {
      measured: need.spread ? yield* measured(asked) : null,
      noise: need.noise ? yield* noiseOfLight(asked) : []
    };
  },
  prepare: (given, { channels }, solution) => ({
    params: given,
    psf: solution?.measured ? solution.measured.psf : asSpread(given.psf),
    channels,
    measured: solution?.measured ?? null,
    noise: solution?.noise ?? []
  }),
  solved: ({ measured: found, noise }) => ({ measured: found, noise }),
  kernel: (source, coefficients, out) => sharpenPlanes(source, coefficients, out)
});

/** @param held gets how strongly rings are held, 0…1: the most of all channels; left out where nobody asks */
export function sharpenPlanes(
  source: Patch,
  { params: given, psf, channels, noise }: DeconvolveCoefficients,
  out: Planes,
  held: Float32Array | null = null
): void {
  const n = source.width * source.height;
  if (!psf) return void source.planes.forEach((plane, c) => out[c].set(plane.subarray(0, n)));
  const own = atScale(psf, source.scale);
  const products = spreadProducts(own);
  const lightOf = (c: number): ReturnType<typeof channelLight> => channelLight(channels[c], source.encoding);
  const run = (plane: Float32Array, to: Float32Array, c: number): void => {
    const light = lightOf(c);
    inRoom(() => {
      const [came, made] = [takePlane(n), takePlane(n)];
      came.set(plane.subarray(0, n));
      light?.into(came, n);
      richardsonLucy(came, made, source, products, given, source.goOn);
      if (given.rings > 0) {
        const sigma = (noise[c] ?? 0) * source.scale;
        holdRings(came, made, source, own, given.rings, sigma, held);
      }
      light?.back(made, n);
      to.set(made.subarray(0, n));
    });
  };
  eachPlane(source, out, run, (c, other) => lightOf(c) === lightOf(other) && noise[c] === noise[other]);
}

const asSpread = ({ kind, ...rest }: DeconvolveParams['psf']): PointSpread => ({
  ...rest,
  kind: kind === 'gauss' ? 'gauss' : 'moffat'
});
/** The light of the channels that the step acts on, as one plane. */
function lightSeen(seen: Seen, { model, channels, encoding }: Asked): Float32Array {
  const chosen =
    model.id === 'rgb' ? model.channels.flatMap((c, i) => (channels.includes(c) ? [i] : [])) : [];
  const planes = seen.planes.map((plane) => {
    if (encoding === 'linear') return plane;
    const out = plane.slice();
    decodePlane(out, out, out.length);
    return out;
  });
  const used = chosen.length > 0 ? chosen.map((i) => planes[i]) : planes;
  return used.length === 3 ? greyOf({ ...seen, planes }) : used[0].map((_, i) => mean(used, i));
}
const mean = (planes: readonly Float32Array[], i: number): number =>
  planes.reduce((sum, plane) => sum + plane[i], 0) / planes.length;

function* measured(asked: Asked): Solving<MeasuredSpread> {
  const raster = yield* asked.analysis();
  return yield* spreadOfStars(
    raster,
    asked.size,
    (rect) => asked.region(rect),
    (seen) => lightSeen(seen, asked)
  );
}

const noiseOfLight = (asked: Asked): Solving<number[]> =>
  channelNoise(asked, (channel, plane) => channelLight(channel, asked.encoding)?.into(plane, plane.length));
