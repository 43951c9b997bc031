import { BRADFORD, D65, invert, multiply, primaryMatrix, transform, type Matrix3, type Vector3 } from './xyz';

/** A light by its correlated colour temperature in kelvin and its tint: how far beside the locus, in 1/1000 of CIE 1960 u, v. */
export interface Light {
  readonly temperature: number;
  /** Above 0 is towards green, below towards magenta. */
  readonly tint: number;
}

export const COOLEST = 20000;
export const WARMEST = 2300;
/** Between these two the Planckian locus gives way to the daylight locus. */
const [PLANCK_END, DAYLIGHT_BEGIN] = [4000, 5000];

type Uv = readonly [number, number];
const toUv = (x: number, y: number): Uv => {
  const d = -2 * x + 12 * y + 3;
  return [(4 * x) / d, (6 * y) / d];
};
const fromUv = ([u, v]: Uv): Uv => {
  const d = 2 * u - 8 * v + 4;
  return [(3 * u) / d, (2 * v) / d];
};

/** Planckian locus in CIE 1960 u, v (Krystek 1985), 1000…15000 K. */
function planck(t: number): Uv {
  const u =
    (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t * t) /
    (1 + 8.42420235e-4 * t + 7.08145163e-7 * t * t);
  const v =
    (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t * t) /
    (1 - 2.89741816e-5 * t + 1.61456053e-7 * t * t);
  return [u, v];
}

/** Daylight locus (CIE 15), 4000…25000 K. */
function daylight(t: number): Uv {
  const x =
    t <= 7000
      ? -4.607e9 / t ** 3 + 2.9678e6 / t ** 2 + 99.11 / t + 0.244063
      : -2.0064e9 / t ** 3 + 1.9018e6 / t ** 2 + 247.48 / t + 0.23704;
  return toUv(x, -3 * x * x + 2.87 * x - 0.275);
}

function locus(t: number): Uv {
  if (t <= PLANCK_END) return planck(t);
  if (t >= DAYLIGHT_BEGIN) return daylight(t);
  const part = (t - PLANCK_END) / (DAYLIGHT_BEGIN - PLANCK_END);
  const [p, d] = [planck(t), daylight(t)];
  return [p[0] + (d[0] - p[0]) * part, p[1] + (d[1] - p[1]) * part];
}

/** The direction across the locus, towards green. */
function across(t: number): Uv {
  const [a, b] = [locus(t * 0.999), locus(t * 1.001)];
  const [du, dv] = [b[0] - a[0], b[1] - a[1]];
  const length = Math.hypot(du, dv);
  // Cooler lights lie towards smaller u; green is where v grows.
  return [dv / -length, du / length].map((c, _, all) => (all[1] < 0 ? -c : c)) as unknown as Uv;
}

/** Chromaticity x, y of a light. */
export function chromaticityOf({ temperature, tint }: Light): readonly [number, number] {
  const [u, v] = locus(temperature);
  const [nu, nv] = across(temperature);
  return fromUv([u + (nu * tint) / 1000, v + (nv * tint) / 1000]);
}

const whiteXyz = ([x, y]: readonly [number, number]): Vector3 => [x / y, 1, (1 - x - y) / y];

/** Linear sRGB → XYZ of its own white, D65. */
const TO_XYZ: Matrix3 = primaryMatrix;
const FROM_XYZ: Matrix3 = invert(TO_XYZ);

/**
 * Gains on linear RGB that take the white of `light` to neutral: what the Bradford adaptation from that light to D65
 * does to its white, as one number a channel, at the same luminance.
 */
export function gainsOfLight(light: Light): readonly [number, number, number] {
  const white = whiteXyz(chromaticityOf(light));
  const [from, to] = [transform(BRADFORD, white), transform(BRADFORD, D65)];
  const scale: Matrix3 = [to[0] / from[0], 0, 0, 0, to[1] / from[1], 0, 0, 0, to[2] / from[2]];
  const adaptation = multiply(FROM_XYZ, multiply(invert(BRADFORD), multiply(scale, BRADFORD)));
  const seen = transform(FROM_XYZ, white);
  const neutral = transform(adaptation, white);
  const gains = seen.map((v, c) => neutral[c] / Math.max(v, 1e-3));
  const luminance = 0.2126 * gains[0] + 0.7152 * gains[1] + 0.0722 * gains[2];
  return gains.map((g) => g / luminance) as unknown as [number, number, number];
}

/** The light whose white the gains on linear RGB take to neutral: the nearest place of the locus, and how far beside it. */
export function lightOfGains(gains: readonly [number, number, number]): Light {
  const [x, y, z] = transform(TO_XYZ, gains.map((g) => 1 / Math.max(g, 1e-6)) as unknown as Vector3);
  const sum = x + y + z;
  const [u, v] = toUv(x / sum, y / sum);
  const distance = (t: number): number => Math.hypot(locus(t)[0] - u, locus(t)[1] - v);
  // Even steps of 1/T are about even steps along the locus.
  let [low, high] = [1e6 / COOLEST, 1e6 / WARMEST];
  for (let round = 0; round < 6; round++) {
    const step = (high - low) / 24;
    let best = low;
    for (let m = low; m <= high + step / 2; m += step) if (distance(1e6 / m) < distance(1e6 / best)) best = m;
    [low, high] = [Math.max(1e6 / COOLEST, best - step), Math.min(1e6 / WARMEST, best + step)];
  }
  const temperature = 2e6 / (low + high);
  const [lu, lv] = locus(temperature);
  const [nu, nv] = across(temperature);
  return { temperature, tint: 1000 * ((u - lu) * nu + (v - lv) * nv) };
}
