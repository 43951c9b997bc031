import { lab, TO_LAB } from './lab';
import { percent, type Channel, type Encoding } from './model';
import { eitherWay, inRoom, matrixAt, simd, takePlane } from '../kernels/arena';
import type { Planes } from './planes';
import { decode, encode } from './transfer';

/** A channel that is computed from RGB but belongs to no model that leads back. */
export interface DerivedChannel extends Channel {
  fill(rgb: Planes, encoding: Encoding, out: Float32Array, n: number): void;
}

const SHARES = [0.2126, 0.7152, 0.0722] as const;

/** Rec. ITU-R BT.709 luminance of linear light: Y. */
export const luminance = (r: number, g: number, b: number): number =>
  SHARES[0] * r + SHARES[1] * g + SHARES[2] * b;

/** The value of the grey of the same luminance: coded as the picture is, so that in a linear one it is Y itself. */
const lum: DerivedChannel = {
  id: 'lum',
  letter: 'lum',
  sign: 'lum',
  name: 'luminance',
  readout: percent,
  light: true,
  fill([red, green, blue], encoding, out, n) {
    if (encoding === 'linear') {
      for (let i = 0; i < n; i++) out[i] = luminance(red[i], green[i], blue[i]);
      return;
    }
    eitherWay(
      [red, green, blue, out],
      (r, g, b, to) => simd.luminance(r, g, b, to, n, matrixAt(SHARES)),
      () => {
        for (let i = 0; i < n; i++)
          out[i] = encode(luminance(decode(red[i]), decode(green[i]), decode(blue[i])));
      }
    );
  }
};

/** LAB and the luminance of coded RGB, to the bit what each is by itself, of one decoding; `values` are not `rgb`. */
export function labAndLuminance(rgb: Planes, values: Planes, luminances: Float32Array, n: number): void {
  eitherWay(
    [...rgb, ...values, luminances],
    (r, g, b, l, p, q, to) => simd.labAndLuminance(r, g, b, l, p, q, to, n, matrixAt([...TO_LAB, ...SHARES])),
    () => {
      lab.kernels.coded.fromRgb(rgb, values, n);
      lum.fill(rgb, 'coded', luminances, n);
    }
  );
}

/** Along hue 60° of LAB, where lamp light lies, against its opposite. */
const warm: DerivedChannel = {
  id: 'warm',
  letter: 'warm',
  sign: 'warm',
  name: 'warm against cool',
  readout: { scale: 256, offset: -128, unit: '', digits: 1, signed: true },
  fill(rgb, encoding, out, n) {
    inRoom(() => {
      const [l, a, b] = [takePlane(n), takePlane(n), takePlane(n)];
      lab.kernels[encoding].fromRgb(rgb, [l, a, b], n);
      const x = Math.cos(Math.PI / 3);
      const y = Math.sin(Math.PI / 3);
      for (let i = 0; i < n; i++) out[i] = 0.5 + (a[i] - 0.5) * x + (b[i] - 0.5) * y;
    });
  }
};

export const derivedChannels: readonly DerivedChannel[] = [lum, warm];
