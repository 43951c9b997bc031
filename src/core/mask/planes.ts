import { inArena, matrixAt, simd } from '../kernels/arena';
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
  if (inArena([mask, term])) {
    simd.joinPlane(mask.byteOffset, term.byteOffset, n, combines.indexOf(combine), Number(invert), amount);
  } else for (let i = 0; i < n; i++) mask[i] = joinValue(mask[i], term[i], combine, invert, amount);
}

/** Clamps the first `n` samples to 0…1; missing ones become 0. */
export function clampPlane(plane: Float32Array, n: number): void {
  if (inArena([plane])) simd.clampPlane(plane.byteOffset, n);
  else for (let i = 0; i < n; i++) plane[i] = clamp(plane[i]);
}

/** Distance of three planes from a place, each difference times its scale. */
export function distanceFrom(
  planes: readonly Float32Array[],
  place: readonly number[],
  scales: readonly number[],
  out: Float32Array,
  n: number
): void {
  if (inArena(planes, [out])) {
    const [x, y, z] = planes.map((p) => p.byteOffset);
    simd.distancePlane(x, y, z, out.byteOffset, n, matrixAt([...place, ...scales]));
    return;
  }
  for (let i = 0; i < n; i++) {
    let sum = 0;
    for (let c = 0; c < 3; c++) sum += ((planes[c][i] - place[c]) * scales[c]) ** 2;
    out[i] = Math.sqrt(sum);
  }
}

/** Adds `weight` times a plane. */
export function addTo(out: Float32Array, plane: Float32Array, weight: number, n: number): void {
  if (inArena([out, plane])) simd.addPlane(out.byteOffset, plane.byteOffset, n, weight);
  else for (let i = 0; i < n; i++) out[i] += weight * plane[i];
}

/** Multiplies by a plane. */
export function multiplyBy(out: Float32Array, plane: Float32Array, n: number): void {
  if (inArena([out, plane])) simd.timesPlane(out.byteOffset, plane.byteOffset, n);
  else for (let i = 0; i < n; i++) out[i] *= plane[i];
}

/** base += amount·(blended − base). */
export function fade(base: Float32Array, blended: Float32Array, amount: Float32Array, n: number): void {
  if (inArena([base, blended, amount])) {
    simd.fadePlane(base.byteOffset, blended.byteOffset, amount.byteOffset, n);
  } else for (let i = 0; i < n; i++) base[i] += amount[i] * (blended[i] - base[i]);
}

/** plane·scale + shift. */
export function scaleBy(plane: Float32Array, scale: number, shift: number, n: number): void {
  if (inArena([plane])) simd.scalePlane(plane.byteOffset, n, scale, shift);
  else for (let i = 0; i < n; i++) plane[i] = plane[i] * scale + shift;
}

/** Lays a stroke of some flow on what is there, or takes away by it. */
export function lay(out: Float32Array, stroke: Float32Array, flow: number, erase: boolean, n: number): void {
  if (inArena([out, stroke])) simd.layPlane(out.byteOffset, stroke.byteOffset, n, flow, Number(erase));
  else if (erase) for (let i = 0; i < n; i++) out[i] *= 1 - flow * stroke[i];
  else for (let i = 0; i < n; i++) out[i] += flow * stroke[i] * (1 - out[i]);
}
