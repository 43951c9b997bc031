import { modelOf, type Encoding } from '../colour';

/** L*, a*, b*. */
export type Lab = readonly [number, number, number];

/** RGB → L*, a*, b* (D50). */
export function labOf(rgb: readonly number[], encoding: Encoding): Lab {
  const planes = rgb.slice(0, 3).map((v) => Float32Array.of(v));
  modelOf('lab').kernels[encoding].fromRgb(planes, planes, 1);
  return [planes[0][0] * 100, (planes[1][0] - 0.5) * 256, (planes[2][0] - 0.5) * 256];
}

/** L*, a*, b* → RGB. */
export function rgbOfLab([l, a, b]: Lab, encoding: Encoding): [number, number, number] {
  const planes = [Float32Array.of(l / 100), Float32Array.of(a / 256 + 0.5), Float32Array.of(b / 256 + 0.5)];
  modelOf('lab').kernels[encoding].toRgb(planes, planes, 1);
  return [planes[0][0], planes[1][0], planes[2][0]];
}

const RAD = Math.PI / 180;
const SEVENTH = 25 ** 7;
const seventh = (c: number): number => {
  const cube = c * c * c;
  const seven = cube * cube * c;
  return Math.sqrt(seven / (seven + SEVENTH));
};
const chroma = (a: number, b: number): number => Math.sqrt(a * a + b * b);
/** Hue in degrees, 0…360; 0 without colour. */
const hueOf = (a: number, b: number): number =>
  a === 0 && b === 0 ? 0 : (Math.atan2(b, a) / RAD + 360) % 360;

/** Colour difference CIEDE2000 (CIE 142-2001; Sharma, Wu & Dalal 2005) of two LAB colours, weights 1. */
export const deltaE2000 = ([l1, a1, b1]: Lab, [l2, a2, b2]: Lab): number => ciede2000(l1, a1, b1, l2, a2, b2);

/** The same of L*, a*, b* one by one, for planes of them. */
export function ciede2000(l1: number, a1: number, b1: number, l2: number, a2: number, b2: number): number {
  const mean = (chroma(a1, b1) + chroma(a2, b2)) / 2;
  const stretch = 1 + 0.5 * (1 - seventh(mean));
  const p1 = a1 * stretch;
  const p2 = a2 * stretch;
  const c1 = chroma(p1, b1);
  const c2 = chroma(p2, b2);
  const h1 = hueOf(p1, b1);
  const h2 = hueOf(p2, b2);
  const dl = l2 - l1;
  const dc = c2 - c1;
  let turn = h2 - h1;
  if (c1 * c2 === 0) turn = 0;
  else if (turn > 180) turn -= 360;
  else if (turn < -180) turn += 360;
  const dh = 2 * Math.sqrt(c1 * c2) * Math.sin((turn / 2) * RAD);
  const l = (l1 + l2) / 2;
  const c = (c1 + c2) / 2;
  let h = h1 + h2;
  if (c1 * c2 !== 0) h = Math.abs(h1 - h2) <= 180 ? h / 2 : (h + (h < 360 ? 360 : -360)) / 2;
  const t =
    1 -
    0.17 * Math.cos((h - 30) * RAD) +
    0.24 * Math.cos(2 * h * RAD) +
    0.32 * Math.cos((3 * h + 6) * RAD) -
    0.2 * Math.cos((4 * h - 63) * RAD);
  const off = (l - 50) * (l - 50);
  const sl = 1 + (0.015 * off) / Math.sqrt(20 + off);
  const sc = 1 + 0.045 * c;
  const sh = 1 + 0.015 * c * t;
  const around = (h - 275) / 25;
  const twist = -Math.sin(60 * Math.exp(-around * around) * RAD) * 2 * seventh(c);
  const x = dl / sl;
  const y = dc / sc;
  const z = dh / sh;
  return Math.sqrt(x * x + y * y + z * z + twist * y * z);
}

/** How far an RGB colour is from the grey of the same L*, in ΔE 2000. */
export function fromNeutral(rgb: readonly number[], encoding: Encoding): number {
  const lab = labOf(rgb, encoding);
  return deltaE2000(lab, [lab[0], 0, 0]);
}
