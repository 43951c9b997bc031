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

const rad = (degrees: number): number => (degrees * Math.PI) / 180;
const SEVENTH = 25 ** 7;
const seventh = (c: number): number => Math.sqrt(c ** 7 / (c ** 7 + SEVENTH));
/** Hue in degrees, 0…360; 0 without colour. */
const hueOf = (a: number, b: number): number =>
  a === 0 && b === 0 ? 0 : ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360;

/** Colour difference CIEDE2000 (CIE 142-2001; Sharma, Wu & Dalal 2005) of two LAB colours, weights 1. */
export function deltaE2000([l1, a1, b1]: Lab, [l2, a2, b2]: Lab): number {
  const mean = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2;
  const stretch = 1 + 0.5 * (1 - seventh(mean));
  const [p1, p2] = [a1 * stretch, a2 * stretch];
  const [c1, c2] = [Math.hypot(p1, b1), Math.hypot(p2, b2)];
  const [h1, h2] = [hueOf(p1, b1), hueOf(p2, b2)];
  const dl = l2 - l1;
  const dc = c2 - c1;
  let turn = h2 - h1;
  if (c1 * c2 === 0) turn = 0;
  else if (turn > 180) turn -= 360;
  else if (turn < -180) turn += 360;
  const dh = 2 * Math.sqrt(c1 * c2) * Math.sin(rad(turn / 2));
  const l = (l1 + l2) / 2;
  const c = (c1 + c2) / 2;
  let h = h1 + h2;
  if (c1 * c2 !== 0) h = Math.abs(h1 - h2) <= 180 ? h / 2 : (h + (h < 360 ? 360 : -360)) / 2;
  const t =
    1 -
    0.17 * Math.cos(rad(h - 30)) +
    0.24 * Math.cos(rad(2 * h)) +
    0.32 * Math.cos(rad(3 * h + 6)) -
    0.2 * Math.cos(rad(4 * h - 63));
  const off = (l - 50) ** 2;
  const sl = 1 + (0.015 * off) / Math.sqrt(20 + off);
  const sc = 1 + 0.045 * c;
  const sh = 1 + 0.015 * c * t;
  const twist = -Math.sin(rad(60 * Math.exp(-(((h - 275) / 25) ** 2)))) * 2 * seventh(c);
  const [x, y, z] = [dl / sl, dc / sc, dh / sh];
  return Math.sqrt(x * x + y * y + z * z + twist * y * z);
}

/** How far an RGB colour is from the grey of the same L*, in ΔE 2000. */
export function fromNeutral(rgb: readonly number[], encoding: Encoding): number {
  const lab = labOf(rgb, encoding);
  return deltaE2000(lab, [lab[0], 0, 0]);
}
