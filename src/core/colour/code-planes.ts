import { eitherWay, simd } from '../kernels/arena';
import { decode, encode } from './transfer';

/** Coded values → linear light, the first `n` samples. The two may be the same array. */
export function decodePlane(source: Float32Array, out: Float32Array, n: number): void {
  eitherWay(
    [source, out],
    (from, to) => simd.decodePlane(from, to, n),
    () => {
      for (let i = 0; i < n; i++) out[i] = decode(source[i]);
    }
  );
}

/** Linear light → coded values, the first `n` samples. The two may be the same array. */
export function encodePlane(source: Float32Array, out: Float32Array, n: number): void {
  eitherWay(
    [source, out],
    (from, to) => simd.encodePlane(from, to, n),
    () => {
      for (let i = 0; i < n; i++) out[i] = encode(source[i]);
    }
  );
}
