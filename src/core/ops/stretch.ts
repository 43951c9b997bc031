import { z } from 'zod';
import type { Planes } from '../colour';
import { luminance } from '../colour/derived';
import { takePlane } from '../kernels/arena';
import { skyOf, type Sky } from '../measure/sky';
import { shown } from './controls';
import { said, unit } from './fields';
import { defineOp, type Solving } from './op';

export const stretchMethods = ['asinh', 'midtone', 'curve'] as const;
export type StretchMethod = (typeof stretchMethods)[number];

const params = z.strictObject({
  method: z.enum(stretchMethods).default('midtone'),
  black: unit(-1, 0.99)
    .register(shown, {
      label: 'black',
      unit: '%',
      slider: [0, 20],
      worth: 0.01,
      step: 0.1,
      digits: 3,
      grain: 0.01
    })
    .default(0),
  strength: z
    .number({ error: 'must be a number' })
    .min(0.01, 'must be at least 0.01')
    .max(1e7, 'must be at most 10,000,000')
    .register(shown, { label: 'strength', unit: '', log: true, slider: [1, 100_000], digits: 1, step: 1 })
    .default(50),
  middle: unit(1e-6, 0.999999)
    .register(shown, {
      label: 'middle',
      unit: '%',
      log: true,
      slider: [0.01, 50],
      worth: 0.01,
      digits: 4,
      step: 0.01
    })
    .default(0.1),
  protect: unit(0.05, 1)
    .register(shown, { label: 'protect above', unit: '%', slider: [20, 100], worth: 0.01 })
    .default(1),
  /** Black so many σ below the sky, and middle or strength so that the sky comes to `target`, instead of the numbers. */
  auto: z
    .strictObject({
      below: z
        .number({ error: 'must be a number' })
        .min(-10, 'must be at least −10 σ')
        .max(100, 'must be at most 100 σ')
        .register(shown, { label: 'σ below sky', unit: '', slider: [0, 10], step: 0.1, grain: 0.1 })
        .default(3),
      target: unit(0.01, 0.9)
        .register(shown, { label: 'sky at', unit: '%', slider: [2, 50], worth: 0.01, step: 1 })
        .default(0.2)
    })
    .nullable()
    .default(null),
  colour: z.enum(['each', 'hue']).default('each'),
  together: z.boolean().default(true)
});
export type StretchParams = z.infer<typeof params>;
/** The automatic one: channels together, the sky from its measured level to a fifth. */
export const automatic = params.parse({ auto: {} });

/** The curve of one channel. */
export interface Stretching {
  readonly method: StretchMethod;
  readonly black: number;
  readonly strength: number;
  readonly middle: number;
  readonly protect: number;
}

export interface StretchCoefficients {
  readonly channels: readonly Stretching[];
  readonly keepsHue: boolean;
}

/** (m − 1)v/((2m − 1)v − m) (Schlick 1994): 0 at 0, ½ at m, 1 at 1. */
export const midtone = (m: number, v: number): number => ((m - 1) * v) / ((2 * m - 1) * v - m);

/** The middle that brings v to y; v and y within 0…1. */
export const middleFor = (v: number, y: number): number => (v * (y - 1)) / (2 * y * v - y - v);

const asinhCurve = (s: number, v: number): number => Math.asinh(s * v) / Math.asinh(s);

/** The strength that brings v to y: the curve rises with it, so that halving finds it. */
function strengthFor(v: number, y: number): number {
  let [low, high] = [Math.log(1e-2), Math.log(1e7)];
  for (let i = 0; i < 60; i++) {
    const middle = (low + high) / 2;
    if (asinhCurve(Math.exp(middle), v) < y) low = middle;
    else high = middle;
  }
  return Math.exp((low + high) / 2);
}

/** The c of ln(1 + c·t)/ln(1 + c) whose slope at 0 is `slope`; that is at least 1. */
function logFor(slope: number): number {
  if (slope <= 1) return 0;
  let [low, high] = [Math.log(1e-9), Math.log(1e15)];
  for (let i = 0; i < 80; i++) {
    const c = Math.exp((low + high) / 2);
    if (c / Math.log1p(c) < slope) low = Math.log(c);
    else high = Math.log(c);
  }
  return Math.exp((low + high) / 2);
}

/** A curve over v, straight on outside 0…1 with the slope it has at the end. */
function curveOf({ method, strength, middle: m, protect }: Stretching): (v: number) => number {
  const straight = (f: (v: number) => number, atBlack: number, atWhite: number) => (v: number) =>
    v < 0 ? v * atBlack : v > 1 ? 1 + (v - 1) * atWhite : f(v);
  if (method === 'asinh') {
    const whole = Math.asinh(strength);
    const atWhite = strength / (Math.hypot(1, strength) * whole);
    return straight((v) => Math.asinh(strength * v) / whole, strength / whole, atWhite);
  }
  const plain = (v: number): number => midtone(m, v);
  if (method === 'midtone' || protect >= 1) return straight(plain, (1 - m) / m, m / (1 - m));
  // The curve turned round is the one of 1 − m.
  const from = midtone(1 - m, protect);
  const slopeThere = (m * (1 - m)) / ((2 * m - 1) * from - m) ** 2;
  const c = logFor((slopeThere * (1 - from)) / (1 - protect));
  const shoulder = (v: number): number => {
    const t = (v - from) / (1 - from);
    return protect + (1 - protect) * (c > 0 ? Math.log1p(c * t) / Math.log1p(c) : t);
  };
  const atWhite = ((1 - protect) / (1 - from)) * (c > 0 ? c / ((1 + c) * Math.log1p(c)) : 1);
  return straight((v) => (v <= from ? plain(v) : shoulder(v)), (1 - m) / m, atWhite);
}

/** Black below the sky, and middle and strength that bring the sky to the target. */
export function stretchFor(
  { level, sigma }: Sky,
  { below, target }: { below: number; target: number }
): Pick<Stretching, 'black' | 'strength' | 'middle'> {
  const black = Math.min(0.99, level - below * sigma);
  const v = (level - black) / (1 - black);
  // A sky without any scatter stands at black: nothing brings it to anything.
  if (!(v > 1e-9 && v < 1)) return { black, strength: 50, middle: 0.1 };
  return { black, strength: strengthFor(v, target), middle: middleFor(v, target) };
}

/** Linear to coded, so that what is hidden in the dark is seen. */
export const stretch = defineOp<StretchParams, StretchCoefficients, readonly Sky[], true>({
  id: 'stretch',
  title: 'Stretch',
  purpose: 'Makes a linear picture one for the eye: its dark part is spread out',
  words: [
    'linear',
    'nonlinear',
    'asinh',
    'gamma',
    'brighten',
    'astro',
    'reveal',
    'tone mapping',
    'brightness'
  ],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  encodingAfter: () => 'coded',
  sentence({ method, black, strength, middle, protect, auto }) {
    const shoulder = method === 'curve' && protect < 1 ? `, held above ${said(100 * protect, 0)} %` : '';
    if (auto) return `Stretch so that the sky comes to ${said(100 * auto.target, 0)} %${shoulder}`;
    const by =
      method === 'asinh' ? `strength ${said(strength, 1)}` : `the middle at ${said(100 * middle, 3)} %`;
    return `Stretch with black at ${said(100 * black, 2)} %, ${by}${shoulder}`;
  },
  needs: ({ auto }) => (auto ? true : null),
  *solve(_, { analysis }): Solving<readonly Sky[]> {
    const { planes } = yield* analysis();
    return planes.map((plane) => skyOf(plane));
  },
  prepare({ method, black, strength, middle, protect, auto, colour, together }, _, skies) {
    const common = { method, protect };
    const own = { ...common, black, strength, middle };
    const keepsHue = colour === 'hue';
    if (!auto || !skies) return { channels: [own, own, own], keepsHue };
    if (!together && !keepsHue)
      return { channels: skies.map((sky) => ({ ...common, ...stretchFor(sky, auto) })), keepsHue };
    const level = skies.reduce((sum, sky) => sum + sky.level, 0) / 3;
    // The lowest of the channels' blacks, so that none is cut off.
    const lowest = Math.min(...skies.map((sky) => sky.level - auto.below * sky.sigma));
    const found = stretchFor({ level, sigma: level - lowest }, { ...auto, below: 1 });
    const one = { ...common, ...found };
    return { channels: [one, one, one], keepsHue };
  },
  solved: ({ channels }) => ({ channels }),
  kernel: ({ planes, width, height }, coefficients, out) =>
    stretchPlanes(planes, coefficients, out, width * height)
});

const NO_LIGHT = 1e-9;

/** Stretches the first `n` samples of three planes of light. */
export function stretchPlanes(
  planes: Planes,
  { channels, keepsHue }: StretchCoefficients,
  out: Planes,
  n: number
): void {
  if (!keepsHue) {
    planes.forEach((plane, c) => run(channels[c], plane, out[c], n));
    return;
  }
  const [{ black }] = channels;
  const curve = curveOf(channels[0]);
  const scale = 1 / (1 - black);
  const gains = takePlane(n);
  for (let i = 0; i < n; i++) {
    const y = (luminance(planes[0][i], planes[1][i], planes[2][i]) - black) * scale;
    gains[i] = (Math.abs(y) > NO_LIGHT ? curve(y) / y : curve(NO_LIGHT) / NO_LIGHT) * scale;
  }
  planes.forEach((plane, c) => {
    const to = out[c];
    for (let i = 0; i < n; i++) to[i] = (plane[i] - black) * gains[i];
  });
}

function run(of: Stretching, source: Float32Array, out: Float32Array, n: number): void {
  const curve = curveOf(of);
  const scale = 1 / (1 - of.black);
  if (of.method === 'midtone' || (of.method === 'curve' && of.protect >= 1)) {
    const m = of.middle;
    const [a, b] = [m - 1, 2 * m - 1];
    for (let i = 0; i < n; i++) {
      const v = (source[i] - of.black) * scale;
      out[i] = v >= 0 && v <= 1 ? (a * v) / (b * v - m) : curve(v);
    }
    return;
  }
  for (let i = 0; i < n; i++) out[i] = curve((source[i] - of.black) * scale);
}
