// Powers of four floats at a time, by a bit estimate that is then corrected to full float precision.

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

/**
 * z·(1 − h)^(−1/n) for h within 0.18 of 0, as z + z·h times a polynomial of h, fitted by Remez' exchange for the least
 * largest relative error: 5e-8 or less. With y nearly x^(−1/n), z = x·y and h = 1 − x·yⁿ it is x^(1 − 1/n).
 */
// @ts-ignore: decorator
@inline
function corrected(z: v128, h: v128, c1: f32, c2: f32, c3: f32, c4: f32, c5: f32): v128 {
  const square = f32x4.mul(h, h);
  const low = f32x4.add(f32x4.splat(c1), f32x4.mul(h, f32x4.splat(c2)));
  const high = f32x4.add(f32x4.splat(c3), f32x4.mul(h, f32x4.splat(c4)));
  const p = f32x4.add(low, f32x4.mul(square, f32x4.add(high, f32x4.mul(square, f32x4.splat(c5)))));
  return f32x4.add(z, f32x4.mul(f32x4.mul(z, h), p));
}

/** x^(−1/n) as the bits of x > 0 tell it: `bits` less `part`/65536 of them. */
// @ts-ignore: decorator
@inline
function inverseRoot(x: v128, bits: i32, part: i32): v128 {
  return i32x4.sub(i32x4.splat(bits), i32x4.mul(i32x4.shr_u(x, 16), i32x4.splat(part)));
}

/** Coded value → linear light (IEC 61966-2-1), odd about zero: ((v + 0.055) / 1.055)^2.4 above 0.04045, as (x^0.8)³. */
// @ts-ignore: decorator
@inline
export function decode(coded: v128): v128 {
  const v = magnitude(coded);
  const x = f32x4.mul(f32x4.add(v, f32x4.splat(0.055)), f32x4.splat(1.0 / 1.055));
  const y = inverseRoot(x, 1277894336, 13107);
  const y2 = f32x4.mul(y, y);
  const z = f32x4.mul(x, y);
  const h = f32x4.sub(f32x4.splat(1), f32x4.mul(z, f32x4.mul(y2, y2)));
  const root = corrected(z, h, 0.20000011, 0.11998203, 0.08797021, 0.07233405, 0.06130127);
  const line = f32x4.mul(v, f32x4.splat(1.0 / 12.92));
  return withSign(v128.bitselect(line, cube(root), f32x4.le(v, f32x4.splat(0.04045))), coded);
}

/** Linear light → coded value, odd about zero: x^(1/2.4) is the square root of x^(5/6). */
// @ts-ignore: decorator
@inline
export function encode(linear: v128): v128 {
  const v = magnitude(linear);
  // pmax gives its first operand for NaN, so that a missing sample stays one.
  const x = f32x4.pmax(v, f32x4.splat(0.001));
  const y = inverseRoot(x, 1242412283, 10923);
  const y2 = f32x4.mul(y, y);
  const z = f32x4.mul(x, y);
  const h = f32x4.sub(f32x4.splat(1), f32x4.mul(f32x4.mul(z, y), f32x4.mul(y2, y2)));
  const power = f32x4.sqrt(corrected(z, h, 0.16666687, 0.09719793, 0.07017503, 0.05757609, 0.04856269));
  const curve = f32x4.sub(f32x4.mul(power, f32x4.splat(1.055)), f32x4.splat(0.055));
  const line = f32x4.mul(v, f32x4.splat(12.92));
  return withSign(v128.bitselect(line, curve, f32x4.le(v, f32x4.splat(0.0031308))), linear);
}

/**
 * The binary logarithm of x > 0 that is no denormal: the exponent, and 2/ln 2 · artanh((m − 1)/(m + 1)) by its series for
 * m between √½ and √2.
 */
// @ts-ignore: decorator
@inline
export function log2(x: v128): v128 {
  const bits = i32x4.sub(x, i32x4.splat(0x3f3504f3));
  const exponent = i32x4.shr_s(bits, 23);
  const m = i32x4.add(v128.and(bits, i32x4.splat(0x007fffff)), i32x4.splat(0x3f3504f3));
  const one = f32x4.splat(1);
  const s = f32x4.div(f32x4.sub(m, one), f32x4.add(m, one));
  const q = f32x4.mul(s, s);
  let p = f32x4.add(f32x4.mul(q, f32x4.splat(0.320598898)), f32x4.splat(0.412198583));
  p = f32x4.add(f32x4.mul(q, p), f32x4.splat(0.577078016));
  p = f32x4.add(f32x4.mul(q, p), f32x4.splat(0.961796694));
  p = f32x4.add(f32x4.mul(q, p), f32x4.splat(2.885390082));
  return f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.mul(s, p));
}

/** 2^x, by its series about the nearest whole number; 0 or nearly where x is below −126. */
// @ts-ignore: decorator
@inline
export function exp2(x: v128): v128 {
  const y = f32x4.pmax(f32x4.splat(-126), f32x4.pmin(f32x4.splat(127), x));
  // Added to 1.5 · 2^23, a number is rounded to a whole one, which stands in the low bits.
  const shifted = f32x4.add(y, f32x4.splat(12582912));
  const f = f32x4.sub(y, f32x4.sub(shifted, f32x4.splat(12582912)));
  let p = f32x4.add(f32x4.mul(f, f32x4.splat(1.52527338e-5)), f32x4.splat(1.54035304e-4));
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(1.33335581e-3));
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(9.61812911e-3));
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(5.55041087e-2));
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(2.40226507e-1));
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(6.93147181e-1));
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(1));
  return f32x4.mul(p, i32x4.shl(i32x4.add(shifted, i32x4.splat(127)), 23));
}
