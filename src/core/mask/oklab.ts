import { modelOf } from '../colour';
import { decodePlane } from '../colour/code-planes';
import { decode } from '../colour/transfer';
import { inRoom, takePlane } from '../kernels/arena';
import type { MaskGround } from './ground';

/** Oklab (Ottosson 2020) of linear sRGB: L 0…1, a and b about ±0.4. */
export function oklab(r: number, g: number, b: number): [number, number, number] {
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s
  ];
}

/** Oklab of a colour of CIE LAB (D50). */
export function oklabFromLab([l, a, b]: readonly [number, number, number]): [number, number, number] {
  const planes = [l / 100, a / 256 + 0.5, b / 256 + 0.5].map((v) => Float32Array.of(v));
  modelOf('lab').kernels.coded.toRgb(planes, planes, 1);
  return oklab(decode(planes[0][0]), decode(planes[1][0]), decode(planes[2][0]));
}

/** Oklab of the ground's picture, as three planes of the arena. */
export function oklabPlanes({ planes, encoding, n }: MaskGround): Float32Array[] {
  const out = [takePlane(n), takePlane(n), takePlane(n)];
  inRoom(() => {
    const light = planes.map((plane) => {
      if (encoding === 'linear') return plane;
      const linear = takePlane(n);
      decodePlane(plane, linear, n);
      return linear;
    });
    for (let i = 0; i < n; i++) {
      const [l, a, b] = oklab(light[0][i], light[1][i], light[2][i]);
      out[0][i] = l;
      out[1][i] = a;
      out[2][i] = b;
    }
  });
  return out;
}
