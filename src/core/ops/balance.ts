import { shown } from './controls';
import { z } from 'zod';
import type { Encoding, Planes } from '../colour';
import { decodePlane, encodePlane } from '../colour/code-planes';
import { luminance } from '../colour/derived';
import { decode, encode } from '../colour/transfer';
import { eitherWay, matrixAt, simd } from '../kernels/arena';
import { meanOf } from '../measure/histogram';
import { quantiles } from '../measure/quantile';
import { commonSky } from '../measure/common-sky';
import { starPeaks } from '../measure/star-places';
import { light, percent, said, weight } from './fields';
import { samplesOf, type Seen } from '../measure/seen';
import { defineOp, type PinReading, type Solving } from './op';

/** What is white once the sky is neutral: as it was left, or what has these colours above the sky. */
export const skyWhites = ['left', 'stars', 'pins', 'part'] as const;
export type SkyWhite = (typeof skyWhites)[number];

export const balanceMethods = ['fixed', 'grey', 'bright', 'ends', 'pins', 'sky'] as const;
export type BalanceMethod = (typeof balanceMethods)[number];
type Three = readonly [number, number, number];

const three = (
  number: z.ZodNumber,
  value: number
): z.ZodPrefault<
  z.ZodObject<{ r: z.ZodDefault<z.ZodNumber>; g: z.ZodDefault<z.ZodNumber>; b: z.ZodDefault<z.ZodNumber> }>
> =>
  z
    .strictObject(
      Object.fromEntries(['r', 'g', 'b'].map((letter) => [letter, number.default(value)])) as Record<
        'r' | 'g' | 'b',
        z.ZodDefault<z.ZodNumber>
      >
    )
    .prefault({});

const pixel = z.number({ error: 'must be a number (pixels)' });

const params = z.strictObject({
  method: z.enum(balanceMethods).default('fixed'),
  gain: three(weight.clone().register(shown, { label: 'gain', unit: '%', slider: [0, 300], worth: 0.01 }), 1),
  offset: three(
    weight.clone().register(shown, { label: 'offset', unit: '%', slider: [-50, 50], worth: 0.01 }),
    0
  ),
  light,
  /** “ends”: percent of each channel's samples that may fall to black, and as many to white. */
  ends: percent(0, 20)
    .register(shown, { label: 'clip', unit: '%', slider: [0, 5], step: 0.1, grain: 0.05 })
    .default(0.1),
  /** “sky”: what is made white above it. */
  white: z.enum(skyWhites).default('left'),
  /** “part”: the rectangle whose mean it is, in full-size pixels of the picture. */
  part: z
    .strictObject({
      x: pixel,
      y: pixel,
      width: pixel.positive('must be over 0'),
      height: pixel.positive('must be over 0')
    })
    .nullable()
    .default(null)
});
export type BalanceParams = z.infer<typeof params>;

export interface BalanceCoefficients {
  readonly gain: Three;
  readonly offset: Three;
  /** Coded values are decoded first, and coded again. */
  readonly decodes: boolean;
  readonly whiteBy?: number;
}

/** What of a balance it is solved by. */
type Need = Pick<BalanceParams, 'method' | 'light' | 'ends' | 'white' | 'part'>;
interface Solution {
  readonly gain: Three;
  readonly offset: Three;
  /** “sky”: by how many stars, pins or samples its white was found; 0 where there is none, and it was left. */
  readonly whiteBy?: number;
}
/** What the other methods do not ask. */
const UNUSED = { white: 'left', part: null } as const;
const PLAIN: Solution = { gain: [1, 1, 1], offset: [0, 0, 0] };
/** A sample from here on is clipped in the camera. */
const CLIPPED = 0.996;
/** The part of the unclipped samples that counts as the brightest. */
const BRIGHTEST = 0.001;
const LEAST = 1e-6;

/** What a balance works in: linear values, of a linear picture or decoded, or coded ones. */
interface Light {
  readonly linear: boolean;
  readonly decodes: boolean;
}
const lightOf = ({ light }: Pick<BalanceParams, 'light'>, encoding: Encoding): Light => ({
  linear: encoding === 'linear' || light === 'linear',
  decodes: encoding === 'coded' && light === 'linear'
});

/** What is there of a picture, as it is stored and in the light that the balance works in. */
function planesIn(seen: Seen, { decodes }: Light): { planes: Planes; stored: Planes; n: number } {
  const { planes: stored, n } = samplesOf(seen);
  const planes = stored.map((plane) => {
    if (!decodes) return plane;
    const light = new Float32Array(n);
    decodePlane(plane, light, n);
    return light;
  });
  return { planes, stored, n };
}

/** The grey of the same relative luminance, in the values that the balance works in: coded ones are decoded for it. */
function greyOf(values: Three, linear: boolean): number {
  if (linear) return luminance(...values);
  const [r, g, b] = values.map(decode);
  return encode(luminance(r, g, b));
}

/** Gains that bring three means to the grey of the same luminance. */
function toGrey(means: Three, linear: boolean): Three {
  const grey = greyOf(means, linear);
  return means.map((m) => (m > LEAST ? grey / m : 1)) as unknown as Three;
}

/** The mean of the brightest thousandth of the samples that no channel clips. */
function brightest(stored: Planes, planes: Planes, n: number): Three | null {
  const tones = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const [r, g, b] = [stored[0][i], stored[1][i], stored[2][i]];
    tones[i] = Math.max(r, g, b) < CLIPPED ? luminance(planes[0][i], planes[1][i], planes[2][i]) : Number.NaN;
  }
  const sorted = tones.filter((t) => !Number.isNaN(t)).sort();
  if (sorted.length === 0) return null;
  const from = sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * (1 - BRIGHTEST)))];
  const sums = [0, 0, 0];
  let count = 0;
  for (let i = 0; i < n; i++) {
    if (!(tones[i] >= from)) continue;
    planes.forEach((plane, c) => (sums[c] += plane[i]));
    count++;
  }
  return sums.map((s) => s / count) as unknown as Three;
}

/**
 * Gains that make the neutral pins neutral at their own luminance: least squares for each channel, a pin weighing as
 * much as its size. Pins that contradict each other leave a residual.
 */
export function gainsOfPins(
  pins: readonly PinReading[],
  params: Pick<BalanceParams, 'light'>,
  encoding: Encoding
): Three {
  const { linear, decodes } = lightOf(params, encoding);
  const sums = [0, 1, 2].map(() => ({ target: 0, square: 0 }));
  for (const { rgb, size, role } of pins) {
    if (role !== 'neutral') continue;
    const values = rgb.map((v) => (decodes ? decode(v) : v)) as unknown as Three;
    const grey = greyOf(values, linear);
    values.forEach((v, c) => {
      sums[c].target += size * v * grey;
      sums[c].square += size * v * v;
    });
  }
  return sums.map(({ target, square }) => (square > LEAST ? target / square : 1)) as unknown as Three;
}

/** How far a colour is above the sky, and by how many stars, pins or samples that is known. */
interface White {
  readonly over: Three;
  readonly by: number;
}
const MOST_STARS = 200;
const STAR_THRESHOLD = 8;
/** A star that comes up to here may be clipped. */
const STAR_CLIPPED = 0.9;

/** The usual colour of the stars: the median of the parts that each primary has in the light of each of them. */
function whiteOfStars(seen: Seen, light: Planes, levels: Three): White | null {
  const { width, height, planes } = seen;
  const grey = light[0].map((v, i) => v + light[1][i] + light[2][i]);
  const parts: number[][] = [[], [], []];
  for (const { x, y } of starPeaks(grey, width, height, STAR_THRESHOLD, MOST_STARS)) {
    const sums = [0, 0, 0];
    let most = 0;
    for (let j = Math.floor(y) - 1; j <= Math.floor(y) + 1; j++)
      for (let i = Math.floor(x) - 1; i <= Math.floor(x) + 1; i++) {
        const at = j * width + i;
        light.forEach((plane, c) => (sums[c] += plane[at] - levels[c]));
        most = Math.max(most, planes[0][at], planes[1][at], planes[2][at]);
      }
    const total = sums[0] + sums[1] + sums[2];
    if (!(total > 0) || !(most < STAR_CLIPPED)) continue;
    sums.forEach((sum, c) => parts[c].push(sum / total));
  }
  const by = parts[0].length;
  if (by === 0) return null;
  const over = parts.map((list) => quantiles(Float32Array.from(list), by, [0.5])[0]);
  return { over: over as unknown as Three, by };
}

/** The mean of a rectangle of the picture, above the sky. */
function whiteOfPart(
  seen: Seen,
  light: Planes,
  levels: Three,
  part: BalanceParams['part'],
  scale: number
): White | null {
  if (!part) return null;
  const sums = [0, 0, 0];
  let by = 0;
  const [left, top] = [Math.max(0, Math.floor(part.x / scale)), Math.max(0, Math.floor(part.y / scale))];
  const right = Math.min(seen.width, Math.ceil((part.x + part.width) / scale));
  const bottom = Math.min(seen.height, Math.ceil((part.y + part.height) / scale));
  for (let y = top; y < bottom; y++)
    for (let x = left; x < right; x++) {
      const at = y * seen.width + x;
      if (seen.present && seen.present[at] === 0) continue;
      light.forEach((plane, c) => (sums[c] += plane[at] - levels[c]));
      by++;
    }
  return by > 0 ? { over: sums.map((sum) => sum / by) as unknown as Three, by } : null;
}

/** The mean of the neutral pins, each by its size, above the sky. */
function whiteOfPins(pins: readonly PinReading[], decodes: boolean, levels: Three): White | null {
  const neutral = pins.filter(({ role }) => role === 'neutral');
  const size = neutral.reduce((sum, pin) => sum + pin.size, 0);
  const over = levels.map(
    (level, c) =>
      neutral.reduce(
        (sum, pin) => sum + pin.size * ((decodes ? decode(pin.rgb[c]) : pin.rgb[c]) - level),
        0
      ) / size
  );
  return size > 0 ? { over: over as unknown as Three, by: neutral.length } : null;
}

/** The sky of each channel comes to the lowest of the three; what is white above it stays so much brighter than it. */
function skyNeutral(
  seen: Seen,
  need: Need,
  light: Light,
  pins: () => readonly PinReading[],
  scale: number
): Solution {
  const planes = seen.planes.map((plane) => {
    if (!light.decodes) return plane;
    const out = new Float32Array(plane.length);
    decodePlane(plane, out, plane.length);
    return out;
  });
  if (seen.present && !seen.present.includes(1)) return PLAIN;
  const levels = commonSky(seen, planes) as unknown as Three;
  const lowest = Math.min(...levels);
  const asLeft = levels.map((v) => lowest - v) as unknown as Three;
  if (need.white === 'left') return { ...PLAIN, offset: asLeft };
  const white =
    need.white === 'stars'
      ? whiteOfStars(seen, planes, levels)
      : need.white === 'pins'
        ? whiteOfPins(pins(), light.decodes, levels)
        : whiteOfPart(seen, planes, levels, need.part, scale);
  if (!white || white.over.some((v) => !(v > LEAST))) return { ...PLAIN, offset: asLeft, whiteBy: 0 };
  const gain = toGrey(white.over, true);
  return { gain, offset: levels.map((v, c) => lowest - gain[c] * v) as unknown as Three, whiteBy: white.by };
}

/** Gains and offsets by a method that asks the whole picture. */
function solvedFrom(seen: Seen, { method, ends }: Need, light: Light): Solution {
  const { linear } = light;
  const { planes, stored, n } = planesIn(seen, light);
  if (n === 0) return PLAIN;
  if (method === 'grey')
    return { ...PLAIN, gain: toGrey(planes.map((p) => meanOf(p, n)) as unknown as Three, linear) };
  if (method === 'bright') {
    const white = brightest(stored, planes, n);
    return white ? { ...PLAIN, gain: white.map((w) => 1 / Math.max(w, LEAST)) as unknown as Three } : PLAIN;
  }
  const stretched = planes.map((plane) => {
    const [low, high] = quantiles(plane, n, [ends / 100, 1 - ends / 100]);
    return high - low > LEAST
      ? { gain: 1 / (high - low), offset: -low / (high - low) }
      : { gain: 1, offset: 0 };
  });
  return {
    gain: stretched.map((s) => s.gain) as unknown as Three,
    offset: stretched.map((s) => s.offset) as unknown as Three
  };
}

const SENTENCES: Record<BalanceMethod, string> = {
  fixed: '',
  grey: 'The average is grey',
  bright: 'The brightest is white',
  ends: 'Each channel from end to end',
  pins: 'The neutral pins are neutral',
  sky: 'The sky is neutral'
};

const WHITES: Record<SkyWhite, string> = {
  left: '',
  stars: ', the usual star is white',
  pins: ', the neutral pins are white',
  part: ', a part is white'
};

/** x·gain + offset a channel, in coded values or linear light; the numbers fixed or solved from the picture. */
export const balance = defineOp<BalanceParams, BalanceCoefficients, Solution, Need>({
  id: 'balance',
  title: 'Balance',
  purpose: 'Takes a cast out: by what ought to be grey, by pins, by the light’s temperature',
  words: [
    'white balance',
    'temperature',
    'kelvin',
    'warmth',
    'cast',
    'neutral',
    'grey card',
    'colour correction',
    'cooler',
    'warmer',
    'tint'
  ],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  sentence({ method, gain, offset, white }) {
    if (method === 'sky') return SENTENCES[method] + WHITES[white];
    if (method !== 'fixed') return SENTENCES[method];
    const gains = [gain.r, gain.g, gain.b].map((g) => said(g, 2)).join(' ');
    return [offset.r, offset.g, offset.b].some((o) => o !== 0) ? `Gains ${gains}, offset` : `Gains ${gains}`;
  },
  needs({ method, light, ends, white, part }) {
    if (method === 'fixed') return null;
    const how = method === 'sky' ? { white, part: white === 'part' ? part : null } : UNUSED;
    return { method, light, ends, ...how };
  },
  *solve(need, { pins, analysis, encoding, size }): Solving<Solution> {
    if (need.method === 'pins') return { ...PLAIN, gain: gainsOfPins(pins(), need, encoding) };
    const seen = yield* analysis();
    const light = lightOf(need, encoding);
    return need.method === 'sky'
      ? skyNeutral(seen, need, light, pins, size.width / seen.width)
      : solvedFrom(seen, need, light);
  },
  readsPins: ({ method, white }) =>
    method === 'pins' || (method === 'sky' && white === 'pins') ? ['neutral'] : [],
  idle: ({ method, gain, offset }) =>
    method === 'fixed' &&
    [gain.r, gain.g, gain.b].every((v) => v === 1) &&
    [offset.r, offset.g, offset.b].every((v) => v === 0),
  prepare({ gain, offset, light }, { encoding }, solution) {
    const fixed = { gain: [gain.r, gain.g, gain.b], offset: [offset.r, offset.g, offset.b] } as const;
    return { ...(solution ?? fixed), decodes: lightOf({ light }, encoding).decodes };
  },
  solved: ({ gain, offset, whiteBy }) => ({ gain, offset, whiteBy }),
  kernel({ planes, width, height }, { gain, offset, decodes }, out) {
    const n = width * height;
    if (decodes) planes.forEach((plane, c) => decodePlane(plane, out[c], n));
    scale(decodes ? out : planes, out, n, gain, offset);
    if (decodes) for (const plane of out) encodePlane(plane, plane, n);
  }
});

/** x·gain + offset a plane. `out` may be `source`. */
function scale(source: Planes, out: Planes, n: number, gain: Three, offset: Three): void {
  const [[gr, gg, gb], [r, g, b]] = [gain, offset];
  eitherWay(
    [...source, ...out],
    (x, y, z, u, v, w) =>
      simd.mixThree(x, y, z, u, v, w, n, matrixAt([gr, 0, 0, r, 0, gg, 0, g, 0, 0, gb, b])),
    () =>
      source.forEach((plane, c) => {
        const to = out[c];
        const [times, plus] = [gain[c], offset[c]];
        for (let i = 0; i < n; i++) to[i] = plane[i] * times + plus;
      })
  );
}
