import { z } from 'zod';
import { fillChannel, type Channel, type Encoding } from '../colour';
import { lightOfLightness, lightnessOfLight } from '../colour/lab';
import { decodePlane, encodePlane } from '../colour/code-planes';
import { inRoom, takePlane } from '../kernels/arena';
import { noiseOfPlanes } from '../measure/noise';
import { quantiles } from '../measure/quantile';
import type { Seen } from '../measure/seen';
import { greyOf, starsIn } from '../measure/star-places';
import { commonSpread, SHAPE_REACH, starShape } from '../measure/star-shape';
import type { Field } from '../spatial/field';
import { gaussianBlur, gaussianReach } from '../spatial/gaussian';
import { extremes } from '../spatial/extremes';
import { spreadProducts, spreadReach, type PointSpread } from '../spatial/point-spread';
import { deconvolveReach, richardsonLucy, type DeconvolveHow } from '../spatial/richardson-lucy';
import { shown } from './controls';
import { degrees, pixels, said, unit } from './fields';
import { defineOp, type Asked, type Solving } from './op';

const spread = z.strictObject({
  kind: z.enum(['gauss', 'moffat', 'stars']).default('gauss'),
  fwhm: pixels(0.5, 15)
    .register(shown, { label: 'width', unit: 'px', slider: [1, 10], step: 0.1, digits: 2 })
    .default(3),
  beta: z
    .number({ error: 'must be a number' })
    .min(1.2, 'must be at least 1.2')
    .max(12, 'must be at most 12')
    .register(shown, { label: 'foot', unit: '', step: 0.1, digits: 2, slider: [1.5, 6] })
    .default(3.5),
  ratio: unit(0.4, 1)
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

/** A star that the point-spread was measured from, in full-size pixels. */
export interface MeasuredStar {
  readonly x: number;
  readonly y: number;
  readonly fwhm: number;
  readonly ratio: number;
}
export interface MeasuredSpread {
  /** Null where too few stars have a shape; the step leaves the picture as it is then. */
  readonly psf: (PointSpread & { readonly kind: 'moffat' }) | null;
  readonly stars: readonly MeasuredStar[];
  /** The mean of the stars as they stand in their squares, the brightest sample 1, row by row. */
  readonly mean: readonly number[];
}
interface DeconvolveNeed {
  readonly spread: boolean;
  readonly noise: boolean;
}
export interface DeconvolveSolution {
  readonly measured: MeasuredSpread | null;
  /** σ of the light of each channel of On; empty where it is not asked for. */
  readonly noise: readonly number[];
}
interface DeconvolveCoefficients extends DeconvolveSolution {
  readonly params: DeconvolveParams;
  readonly psf: PointSpread | null;
  readonly channels: readonly Channel[];
}

/** So many stars are looked at, and so few at least must have a shape. */
const [MOST_STARS, FEWEST] = [150, 5];
/** The part of what is found that looking for stars is counted as. */
const LOOKING = 0.5;
/** What lies further than so many σ of all the spreads together is not felt, however many iterations there are. */
const FELT = 10;
/** Where light falls off by so many σ of its noise within a ring's width, rings are to be expected: from none to all. */
const [NO_RING, RING] = [6, 12];
/** Of stars that are fainter still, what noise does to a ring is let be: up to so many σ. */
const [LET_BE, MOST_LET_BE] = [8, 0.5];
/** What rises so many σ over the ground is a star's. */
const STARRY = 5;
/** How wide rings are, and how far about a star its foot still matters, in widths of the point-spread. */
const [RING_WIDTH, FOOT_WIDTH] = [2, 4];
/** A Gaussian's width at half of its height, in σ. */
const WIDTH = 2 * Math.sqrt(2 * Math.LN2);

/** Each iteration spreads twice; the spreads add up as their squares do. A Moffat's foot counts for a wider σ. */
function feltReach(psf: PointSpread, how: DeconvolveHow): number {
  const reach = spreadReach(psf);
  const sigma = (psf.fwhm / Math.sqrt(psf.ratio)) * (psf.kind === 'gauss' ? 1 / WIDTH : 0.6);
  const felt = Math.ceil(FELT * sigma * Math.sqrt(2 * how.iterations)) + 2 * reach;
  return Math.min(deconvolveReach(reach, how), felt);
}

const atScale = (psf: PointSpread, scale: number): PointSpread => ({ ...psf, fwhm: psf.fwhm * scale });
const ringReach = ({ fwhm }: PointSpread): number => Math.ceil(FOOT_WIDTH * fwhm);

type Along = (plane: Float32Array, n: number) => void;
interface Light {
  readonly into: Along;
  readonly back: Along;
}
const coded: Light = {
  into: (plane, n) => decodePlane(plane, plane, n),
  back: (plane, n) => encodePlane(plane, plane, n)
};
const lightness: Light = {
  into: (plane, n) => {
    for (let i = 0; i < n; i++) plane[i] = lightOfLightness(plane[i]);
  },
  back: (plane, n) => {
    for (let i = 0; i < n; i++) plane[i] = lightnessOfLight(plane[i]);
  }
};

/** How a channel's values become light; those of colour and of ink are taken as they stand. */
function lightOf({ id }: Channel, encoding: Encoding): Light | null {
  if (id === 'lab.l') return lightness;
  return encoding === 'coded' && (id.startsWith('rgb.') || id === 'hsv.v') ? coded : null;
}

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
  reach({ psf, rings, ...how }, scale) {
    // One that is measured is not known here: it is taken for as wide as one may be that is believed.
    const own = atScale(psf.kind === 'stars' ? WIDEST : asSpread(psf), scale);
    const held =
      rings > 0
        ? gaussianReach(own.fwhm / WIDTH) + ringReach(own) + 2 * gaussianReach(own.fwhm * FOOT_WIDTH * 0.5)
        : 0;
    return feltReach(own, how) + held;
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
  kernel(source, { params: given, psf, channels, noise }, out) {
    const n = source.width * source.height;
    if (!psf) return void source.planes.forEach((plane, c) => out[c].set(plane.subarray(0, n)));
    const own = atScale(psf, source.scale);
    const products = spreadProducts(own);
    source.planes.forEach((plane, c) => {
      const light = lightOf(channels[c], source.encoding);
      // The channels of a grey picture are one.
      const like = source.planes
        .slice(0, c)
        .findIndex((other, k) => lightOf(channels[k], source.encoding) === light && isSame(other, plane, n));
      if (like >= 0) return void out[c].set(out[like].subarray(0, n));
      inRoom(() => {
        const [came, made] = [takePlane(n), takePlane(n)];
        came.set(plane.subarray(0, n));
        light?.into(came, n);
        richardsonLucy(came, made, source, products, given, source.goOn);
        if (given.rings > 0) holdRings(came, made, source, own, given.rings, (noise[c] ?? 0) * source.scale);
        light?.back(made, n);
        out[c].set(made.subarray(0, n));
      });
    });
  }
});

function isSame(a: Float32Array, b: Float32Array, n: number): boolean {
  for (let i = 0; i < n; i++) if (a[i] !== b[i] && (a[i] === a[i] || b[i] === b[i])) return false;
  return true;
}

const asSpread = ({ kind, ...rest }: DeconvolveParams['psf']): PointSpread => ({
  ...rest,
  kind: kind === 'gauss' ? 'gauss' : 'moffat'
});
/** As wide as a measured one may be. */
const WIDEST: PointSpread = { kind: 'moffat', fwhm: 5, beta: 3, ratio: 0.7, angle: 0 };

/**
 * Raises what became darker than anything about it was, where light falls off steeply: dark rings about stars. What is filled in there
 * is taken off the star, whose light they were, so that none is added.
 * @param sigma of the noise of the light that came in
 */
function holdRings(
  came: Float32Array,
  made: Float32Array,
  field: Field,
  psf: PointSpread,
  rings: number,
  sigma: number
): void {
  const n = field.width * field.height;
  inRoom(() => {
    const [soft, ground, low, high, filled] = Array.from({ length: 5 }, () => takePlane(n));
    filled.fill(0, 0, n);
    gaussianBlur(came, soft, field, psf.fwhm / WIDTH);
    extremes(soft, ground, high, field, ringReach(psf));
    extremes(soft, low, high, field, Math.ceil(RING_WIDTH * psf.fwhm));
    for (let i = 0; i < n; i++) {
      const steep = (high[i] - low[i]) / Math.max(sigma, 1e-12);
      if (!(steep > NO_RING)) continue;
      const under = ground[i] - sigma * Math.min(MOST_LET_BE, LET_BE / steep) - made[i];
      if (!(under > 0)) continue;
      const near = Math.min(1, (steep - NO_RING) / (RING - NO_RING));
      filled[i] = rings * near * near * (3 - 2 * near) * under;
    }
    for (let i = 0; i < n; i++) {
      made[i] += filled[i];
      high[i] = Math.max(0, made[i] - ground[i] - STARRY * sigma);
    }
    const apart = psf.fwhm * FOOT_WIDTH * 0.5;
    gaussianBlur(high, low, field, apart);
    for (let i = 0; i < n; i++) filled[i] = low[i] > 0 ? filled[i] / low[i] : 0;
    gaussianBlur(filled, soft, field, apart);
    for (let i = 0; i < n; i++) made[i] -= high[i] * Math.min(1, soft[i]);
  });
}

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
  const { size } = asked;
  const looking = starsIn(yield* asked.analysis(), size, (rect) => asked.region(rect), MOST_STARS);
  let told = 0;
  let step = looking.next();
  for (; !step.done; step = looking.next()) yield Math.min(1, ++told / MOST_STARS) * LOOKING;
  const side = 2 * SHAPE_REACH + 1;
  const squares: { x: number; y: number; samples: Float32Array }[] = [];
  for (const star of step.value) {
    const [x, y] = [Math.floor(star.x) - SHAPE_REACH, Math.floor(star.y) - SHAPE_REACH];
    if (x < 0 || y < 0 || x + side > size.width || y + side > size.height) continue;
    const samples = lightSeen(asked.region({ x, y, width: side, height: side }), asked);
    if (starShape(samples)) squares.push({ x, y, samples });
    yield LOOKING;
  }
  if (squares.length < FEWEST) return { psf: null, stars: [], mean: [] };
  // How steep the foot is, is told by all together; each star's own width is told with that.
  const { beta } = commonSpread(squares.map(({ samples }) => starShape(samples)!.spread));
  const stars: MeasuredStar[] = [];
  const spreads: PointSpread[] = [];
  for (const [i, { x, y, samples }] of squares.entries()) {
    const shape = starShape(samples, beta);
    if (shape) {
      spreads.push(shape.spread);
      const { fwhm, ratio } = shape.spread;
      stars.push({ x: x + shape.x, y: y + shape.y, fwhm, ratio });
    }
    yield LOOKING + ((1 - LOOKING) * (i + 1)) / squares.length;
  }
  return { psf: commonSpread(spreads), stars, mean: meanSquare(squares.map(({ samples }) => samples)) };
}

/** The mean of squares about stars over what is about them, its brightest sample 1. */
function meanSquare(squares: readonly Float32Array[]): number[] {
  const sum = new Float64Array(squares[0].length);
  for (const square of squares) {
    const [ground, peak] = quantiles(square, square.length, [0.5, 1]);
    square.forEach((v, i) => (sum[i] += (v - ground) / (peak - ground)));
  }
  const peak = Math.max(...sum);
  return Array.from(sum, (v) => v / peak);
}

function* noiseOfLight({ channels, encoding, size, region }: Asked): Solving<number[]> {
  return yield* noiseOfPlanes(size, (rect) => {
    const { planes } = region(rect);
    return channels.map((channel) => {
      const plane = new Float32Array(rect.width * rect.height);
      fillChannel(channel.id, planes, encoding, plane, plane.length);
      lightOf(channel, encoding)?.into(plane, plane.length);
      return plane;
    });
  });
}
