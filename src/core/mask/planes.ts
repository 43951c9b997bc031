import { eitherWay, matrixAt, simd } from '../kernels/arena';
import type { Combine } from '../document/mask';

/** How masks are made of planes: each with a kernel of the arena, and plainly where the planes lie elsewhere. */

const combines: readonly Combine[] = ['intersect', 'add', 'subtract', 'min', 'max', 'difference'];

/** A mask and a term that has been faded, joined. */
const joined: Readonly<Record<Combine, (m: number, t: number) => number>> = {
  intersect: (m, t) => m * t,
  add: (m, t) => 1 - (1 - m) * (1 - t),
  subtract: (m, t) => m * (1 - t),
  min: Math.min,
  max: Math.max,
  difference: (m, t) => Math.abs(m - t)
};

const clamp = (v: number): number => (v > 0 ? (v < 1 ? v : 1) : 0);

/** One sample of a mask joined by one of a term: the term clamped, inverted where asked, faded towards no effect. */
export function joinValue(m: number, raw: number, combine: Combine, invert: boolean, amount: number): number {
  const v = invert ? 1 - clamp(raw) : clamp(raw);
  const t = combine === 'intersect' || combine === 'min' ? 1 - amount * (1 - v) : amount * v;
  return joined[combine](m, t);
}

/** Joins a term to a mask, in place, the first `n` samples. */
export function joinTerm(
  mask: Float32Array,
  term: Float32Array,
  n: number,
  combine: Combine,
  invert: boolean,
  amount: number
): void {
  eitherWay(
    [mask, term],
    (m, t) => simd.joinPlane(m, t, n, combines.indexOf(combine), Number(invert), amount),
    () => {
      for (let i = 0; i < n; i++) mask[i] = joinValue(mask[i], term[i], combine, invert, amount);
    }
  );
}

/** Clamps the first `n` samples to 0…1; missing ones become 0. */
export function clampPlane(plane: Float32Array, n: number): void {
  eitherWay(
    [plane],
    (at) => simd.clampPlane(at, n),
    () => {
      for (let i = 0; i < n; i++) plane[i] = clamp(plane[i]);
    }
  );
}

/** Distance of three planes from a place, each difference times its scale. */
export function distanceFrom(
  planes: readonly Float32Array[],
  place: readonly number[],
  scales: readonly number[],
  out: Float32Array,
  n: number
): void {
  eitherWay(
    [...planes, out],
    (x, y, z, to) => simd.distancePlane(x, y, z, to, n, matrixAt([...place, ...scales])),
    () => {
      for (let i = 0; i < n; i++) {
        let sum = 0;
        for (let c = 0; c < 3; c++) sum += ((planes[c][i] - place[c]) * scales[c]) ** 2;
        out[i] = Math.sqrt(sum);
      }
    }
  );
}

/** Adds `weight` times a plane. */
export function addTo(out: Float32Array, plane: Float32Array, weight: number, n: number): void {
  eitherWay(
    [out, plane],
    (to, from) => simd.addPlane(to, from, n, weight),
    () => {
      for (let i = 0; i < n; i++) out[i] += weight * plane[i];
    }
  );
}

/** Multiplies by a plane. */
export function multiplyBy(out: Float32Array, plane: Float32Array, n: number): void {
  eitherWay(
    [out, plane],
    (to, by) => simd.timesPlane(to, by, n),
    () => {
      for (let i = 0; i < n; i++) out[i] *= plane[i];
    }
  );
}

/** base += amount·(blended − base). */
export function fade(base: Float32Array, blended: Float32Array, amount: Float32Array, n: number): void {
  eitherWay(
    [base, blended, amount],
    (to, other, by) => simd.fadePlane(to, other, by, n),
    () => {
      for (let i = 0; i < n; i++) base[i] += amount[i] * (blended[i] - base[i]);
    }
  );
}

/** plane·scale + shift. */
export function scaleBy(plane: Float32Array, scale: number, shift: number, n: number): void {
  eitherWay(
    [plane],
    (at) => simd.scalePlane(at, n, scale, shift),
    () => {
      for (let i = 0; i < n; i++) plane[i] = plane[i] * scale + shift;
    }
  );
}

/** Lays a stroke of some flow on what is there, or takes away by it. */
export function lay(out: Float32Array, stroke: Float32Array, flow: number, erase: boolean, n: number): void {
  eitherWay(
    [out, stroke],
    (to, from) => simd.layPlane(to, from, n, flow, Number(erase)),
    () => {
      if (erase) for (let i = 0; i < n; i++) out[i] *= 1 - flow * stroke[i];
      else for (let i = 0; i < n; i++) out[i] += flow * stroke[i] * (1 - out[i]);
    }
  );
}
