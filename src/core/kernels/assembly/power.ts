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

/**
 * x^(1/3) for x > 0: t ← t (t³ + 2x) / (2t³ + x), the last step as t − t (t³ − x) / (2t³ + x), whose rounding is
 * that of a small correction.
 */
// @ts-ignore: decorator
@inline
export function cubeRoot(x: v128): v128 {
  const estimate = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.convert_i32x4_s(x), f32x4.splat(0.33333334)));
  let t = i32x4.add(estimate, i32x4.splat(709921077));
  let cube = f32x4.mul(f32x4.mul(t, t), t);
  t = f32x4.mul(t, f32x4.div(f32x4.add(cube, f32x4.add(x, x)), f32x4.add(f32x4.add(cube, cube), x)));
  cube = f32x4.mul(f32x4.mul(t, t), t);
  return f32x4.sub(t, f32x4.div(f32x4.mul(t, f32x4.sub(cube, x)), f32x4.add(f32x4.add(cube, cube), x)));
}

/** x^(1/5) for x > 0: t ← t (2t⁵ + 3x) / (3t⁵ + 2x). */
// @ts-ignore: decorator
@inline
function fifthRoot(x: v128): v128 {
  const estimate = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.convert_i32x4_s(x), f32x4.splat(0.2)));
  let t = i32x4.add(estimate, i32x4.splat(852000000));
  const two = f32x4.splat(2);
  const three = f32x4.splat(3);
  for (let step = 0; step < 2; step++) {
    const square = f32x4.mul(t, t);
    const fifth = f32x4.mul(f32x4.mul(square, square), t);
    const above = f32x4.add(f32x4.mul(two, fifth), f32x4.mul(three, x));
    const below = f32x4.add(f32x4.mul(three, fifth), f32x4.mul(two, x));
    t = f32x4.mul(t, f32x4.div(above, below));
  }
  return t;
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
  const root = cubeRoot(f32x4.max(v, f32x4.splat(0.001)));
  const power = f32x4.mul(root, f32x4.sqrt(f32x4.sqrt(root)));
  const curve = f32x4.sub(f32x4.mul(power, f32x4.splat(1.055)), f32x4.splat(0.055));
  const line = f32x4.mul(v, f32x4.splat(12.92));
  return withSign(v128.bitselect(line, curve, f32x4.le(v, f32x4.splat(0.0031308))), linear);
}
