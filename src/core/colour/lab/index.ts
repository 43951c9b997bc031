import { eitherWay, matrixAt, simd } from '../../kernels/arena';
import type { ColourModel } from '../model';
import type { Planes } from '../planes';
import { cubeRoot, decode, encode } from '../transfer';
import { D50, RGB_TO_XYZ, XYZ_TO_RGB } from '../xyz';

/** CIE 15: f(t) = t^(1/3) above (6/29)³, a straight line below, which also carries negative values. */
const EPSILON = (6 / 29) ** 3;
const SLOPE = 841 / 108;
const INTERCEPT = 4 / 29;
const KNEE = 6 / 29;

const [m0, m1, m2, m3, m4, m5, m6, m7, m8] = RGB_TO_XYZ.map((v, i) => v / D50[Math.floor(i / 3)]) as [
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number
];
const [w0, w1, w2, w3, w4, w5, w6, w7, w8] = XYZ_TO_RGB.map((v, i) => v * D50[i % 3]) as [
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number
];

/** Linear RGB → XYZ over the white, row by row. */
export const TO_LAB = [m0, m1, m2, m3, m4, m5, m6, m7, m8];
const FROM_LAB = [w0, w1, w2, w3, w4, w5, w6, w7, w8];

const forward = (t: number): number => (t > EPSILON ? cubeRoot(t) : SLOPE * t + INTERCEPT);
const backward = (f: number): number => (f > KNEE ? f * f * f : (f - INTERCEPT) / SLOPE);

/** The light Y of a stored lightness L/100, and the other way. */
export const lightOfLightness = (lightness: number): number => backward((lightness + 0.16) / 1.16);
export const lightnessOfLight = (light: number): number => 1.16 * forward(light) - 0.16;

/** CIE L*a*b* (1976) with the D50 white; stored as L/100, a/256 + 0.5, b/256 + 0.5. */
export const lab: ColourModel = {
  id: 'lab',
  title: 'LAB',
  channels: [
    {
      id: 'lab.l',
      letter: 'l',
      sign: 'L',
      name: 'lightness',
      readout: { scale: 100, offset: 0, unit: '', digits: 1 }
    },
    {
      id: 'lab.a',
      letter: 'a',
      sign: 'a',
      name: 'green to magenta',
      readout: { scale: 256, offset: -128, unit: '', digits: 1, signed: true }
    },
    {
      id: 'lab.b',
      letter: 'b',
      sign: 'b',
      name: 'blue to yellow',
      readout: { scale: 256, offset: -128, unit: '', digits: 1, signed: true }
    }
  ],
  planes: 3,
  kernels: {
    coded: {
      fromRgb([red, green, blue], [l, a, b], n) {
        eitherWay(
          [red, green, blue, l, a, b],
          (...at) => simd.labFromRgb(at[0], at[1], at[2], at[3], at[4], at[5], n, matrixAt(TO_LAB)),
          () => plainlyFrom([red, green, blue], decode, [l, a, b], n)
        );
      },
      toRgb([l, a, b], [red, green, blue], n) {
        eitherWay(
          [l, a, b, red, green, blue],
          (...at) => simd.labToRgb(at[0], at[1], at[2], at[3], at[4], at[5], n, matrixAt(FROM_LAB)),
          () => plainlyTo([l, a, b], encode, [red, green, blue], n)
        );
      }
    },
    linear: {
      fromRgb(rgb, values, n) {
        eitherWay(
          values,
          (l, a, b) => {
            values.forEach((plane, c) => plane !== rgb[c] && plane.set(rgb[c].subarray(0, n)));
            simd.lightToLab(l, a, b, n, matrixAt(TO_LAB));
          },
          () => plainlyFrom(rgb, asItStands, values, n)
        );
      },
      toRgb(values, rgb, n) {
        eitherWay(
          [...values, ...rgb],
          (...at) => simd.labToLight(at[0], at[1], at[2], at[3], at[4], at[5], n, matrixAt(FROM_LAB)),
          () => plainlyTo(values, asItStands, rgb, n)
        );
      }
    }
  }
};

const asItStands = (v: number): number => v;

/** RGB → LAB, each value read as light by `light`. */
function plainlyFrom(
  [red, green, blue]: Planes,
  light: (v: number) => number,
  [l, a, b]: Planes,
  n: number
): void {
  for (let i = 0; i < n; i++) {
    const r = light(red[i]);
    const g = light(green[i]);
    const v = light(blue[i]);
    const fx = forward(m0 * r + m1 * g + m2 * v);
    const fy = forward(m3 * r + m4 * g + m5 * v);
    const fz = forward(m6 * r + m7 * g + m8 * v);
    l[i] = 1.16 * fy - 0.16;
    a[i] = (500 / 256) * (fx - fy) + 0.5;
    b[i] = (200 / 256) * (fy - fz) + 0.5;
  }
}

/** LAB → RGB, each light written by `code`. */
function plainlyTo(
  [l, a, b]: Planes,
  code: (v: number) => number,
  [red, green, blue]: Planes,
  n: number
): void {
  for (let i = 0; i < n; i++) {
    const fy = (l[i] + 0.16) / 1.16;
    const x = backward(fy + (a[i] - 0.5) * (256 / 500));
    const y = backward(fy);
    const z = backward(fy - (b[i] - 0.5) * (256 / 200));
    red[i] = code(w0 * x + w1 * y + w2 * z);
    green[i] = code(w3 * x + w4 * y + w5 * z);
    blue[i] = code(w6 * x + w7 * y + w8 * z);
  }
}
