// Powers of four floats at a time, by a bit estimate and two steps of Halley's method: full float precision.

const SIGN: v128 = i32x4.splat(0x80000000);

// @ts-ignore: decorator
@inline
export function magnitude(x: v128): v128 {
  return v128.andnot(x, SIGN);
}

// @ts-ignore: decorator
@inline
export function withSign(x: v128, sign: v128): v128 {
  return v128.or(x, v128.and(sign, SIGN));
}

/** A third of each integer, within 2^-16 of it, by shifts: 1/4 + 1/16, and twice the rest. */
// @ts-ignore: decorator
@inline
function third(bits: v128): v128 {
  let v = i32x4.add(i32x4.shr_u(bits, 2), i32x4.shr_u(bits, 4));
  v = i32x4.add(v, i32x4.shr_u(v, 4));
  return i32x4.add(v, i32x4.shr_u(v, 8));
}

/** A fifth of each integer: 1/8 + 1/16, and twice the rest. */
// @ts-ignore: decorator
@inline
function fifth(bits: v128): v128 {
  let v = i32x4.add(i32x4.shr_u(bits, 3), i32x4.shr_u(bits, 4));
  v = i32x4.add(v, i32x4.shr_u(v, 4));
  return i32x4.add(v, i32x4.shr_u(v, 8));
}

// @ts-ignore: decorator
@inline
function cube(t: v128): v128 {
  return f32x4.mul(f32x4.mul(t, t), t);
}

/**
 * x^(1/3) for x > 0: t ← t (t³ + 2x) / (2t³ + x), the last step as t − t (t³ − x) / (2t³ + x), whose rounding is
 * that of a small correction.
 */
// @ts-ignore: decorator
@inline
export function cubeRoot(x: v128): v128 {
  const t = i32x4.add(third(x), i32x4.splat(709921077));
  const c = cube(t);
  const u = f32x4.mul(t, f32x4.div(f32x4.add(c, f32x4.add(x, x)), f32x4.add(f32x4.add(c, c), x)));
  const d = cube(u);
  return f32x4.sub(u, f32x4.div(f32x4.mul(u, f32x4.sub(d, x)), f32x4.add(f32x4.add(d, d), x)));
}

/** One step of x^(1/5): t ← t (2t⁵ + 3x) / (3t⁵ + 2x). */
// @ts-ignore: decorator
@inline
function fifthRootStep(t: v128, twice: v128, thrice: v128): v128 {
  const square = f32x4.mul(t, t);
  const p = f32x4.mul(f32x4.mul(square, square), t);
  const double = f32x4.add(p, p);
  return f32x4.mul(t, f32x4.div(f32x4.add(double, thrice), f32x4.add(f32x4.add(double, p), twice)));
}

/** x^(1/5) for x > 0. */
// @ts-ignore: decorator
@inline
function fifthRoot(x: v128): v128 {
  const twice = f32x4.add(x, x);
  const thrice = f32x4.add(twice, x);
  const t = fifthRootStep(i32x4.add(fifth(x), i32x4.splat(852000000)), twice, thrice);
  return fifthRootStep(t, twice, thrice);
}

/** Coded value → linear light (IEC 61966-2-1), odd about zero: ((v + 0.055) / 1.055)^2.4 above 0.04045. */
// @ts-ignore: decorator
@inline
export function decode(coded: v128): v128 {
  const v = magnitude(coded);
  const base = f32x4.mul(f32x4.add(v, f32x4.splat(0.055)), f32x4.splat(1.0 / 1.055));
  const root = fifthRoot(base);
  const curve = f32x4.mul(f32x4.mul(base, base), f32x4.mul(root, root));
  const line = f32x4.mul(v, f32x4.splat(1.0 / 12.92));
  return withSign(v128.bitselect(line, curve, f32x4.le(v, f32x4.splat(0.04045))), coded);
}

/** Linear light → coded value, odd about zero: x^(1/2.4) is the cube root times its own fourth root. */
// @ts-ignore: decorator
@inline
export function encode(linear: v128): v128 {
  const v = magnitude(linear);
  const root = cubeRoot(f32x4.pmax(f32x4.splat(0.001), v));
  const power = f32x4.mul(root, f32x4.sqrt(f32x4.sqrt(root)));
  const curve = f32x4.sub(f32x4.mul(power, f32x4.splat(1.055)), f32x4.splat(0.055));
  const line = f32x4.mul(v, f32x4.splat(12.92));
  return withSign(v128.bitselect(line, curve, f32x4.le(v, f32x4.splat(0.0031308))), linear);
}
