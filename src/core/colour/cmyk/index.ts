import { eitherWay, simd } from '../../kernels/arena';
import { asTheyStand, percent, type ColourModel } from '../model';
import type { Planes } from '../planes';

const clamp = (v: number): number => (v > 0 ? (v < 1 ? v : 1) : 0);

/**
 * Device ink with full black generation: n = min(1−R, 1−G, 1−B), K = n, C = (1−R−K)/(1−K);
 * back R = (1−C)(1−K). RGB is clamped to 0…1 first; ink amounts are not clamped on the way back.
 */
export const cmyk: ColourModel = {
  id: 'cmyk',
  title: 'CMYK',
  channels: [
    { id: 'cmyk.c', letter: 'c', sign: 'C', name: 'cyan', readout: percent, ink: true, light: true },
    { id: 'cmyk.m', letter: 'm', sign: 'M', name: 'magenta', readout: percent, ink: true, light: true },
    { id: 'cmyk.y', letter: 'y', sign: 'Y', name: 'yellow', readout: percent, ink: true, light: true },
    { id: 'cmyk.k', letter: 'k', sign: 'K', name: 'black', readout: percent, ink: true, light: true }
  ],
  planes: 4,
  kernels: asTheyStand({
    fromRgb([red, green, blue], [c, m, y, k], n) {
      eitherWay(
        [red, green, blue, c, m, y, k],
        (...at) => simd.cmykFromRgb(at[0], at[1], at[2], at[3], at[4], at[5], at[6], n),
        () => fromPlainly([red, green, blue], [c, m, y, k], n)
      );
    },
    toRgb([c, m, y, k], [red, green, blue], n) {
      eitherWay(
        [c, m, y, k, red, green, blue],
        (...at) => simd.cmykToRgb(at[0], at[1], at[2], at[3], at[4], at[5], at[6], n),
        () => toPlainly([c, m, y, k], [red, green, blue], n)
      );
    }
  })
};

function fromPlainly([red, green, blue]: Planes, [c, m, y, k]: Planes, n: number): void {
  for (let i = 0; i < n; i++) {
    const r = clamp(red[i]);
    const g = clamp(green[i]);
    const b = clamp(blue[i]);
    const brightest = r > g ? (r > b ? r : b) : g > b ? g : b;
    const scale = brightest > 0 ? 1 / brightest : 0;
    c[i] = (brightest - r) * scale;
    m[i] = (brightest - g) * scale;
    y[i] = (brightest - b) * scale;
    k[i] = 1 - brightest;
  }
}

function toPlainly([c, m, y, k]: Planes, [red, green, blue]: Planes, n: number): void {
  for (let i = 0; i < n; i++) {
    const paper = 1 - k[i];
    const r = (1 - c[i]) * paper;
    const g = (1 - m[i]) * paper;
    const b = (1 - y[i]) * paper;
    red[i] = r;
    green[i] = g;
    blue[i] = b;
  }
}
