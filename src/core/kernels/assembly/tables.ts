// Kernels of curves: what bends one channel by itself, and what turns hues.

import { exp2, log2 } from './power';

/**
 * Puts a plane through a curve of few segments, chosen four samples at a time. For each of `count` segments `table` holds
 * where it begins, then the bits in which its own start and its four coefficients (rising powers) differ from those of
 * the segment before.
 */
export function bendFew(from: usize, to: usize, n: i32, table: usize, count: i32): void {
  const end: usize = <usize>n << 2;
  const last = table + <usize>(count * 24);
  for (let at: usize = 0; at < end; at += 32) {
    // The last group may stand alone.
    const ahead: usize = at + 16 < end ? 16 : 0;
    const x = v128.load(from + at), y = v128.load(from + at + ahead);
    let s = v128.load32_splat(table, 4), a = v128.load32_splat(table, 8), b = v128.load32_splat(table, 12);
    let c = v128.load32_splat(table, 16), d = v128.load32_splat(table, 20);
    let s2 = s, a2 = a, b2 = b, c2 = c, d2 = d;
    for (let k = table + 24; k < last; k += 24) {
      const start = v128.load32_splat(k);
      const is = f32x4.ge(x, start), is2 = f32x4.ge(y, start);
      let bits = v128.load32_splat(k, 4);
      s = v128.xor(s, v128.and(is, bits));
      s2 = v128.xor(s2, v128.and(is2, bits));
      bits = v128.load32_splat(k, 8);
      a = v128.xor(a, v128.and(is, bits));
      a2 = v128.xor(a2, v128.and(is2, bits));
      bits = v128.load32_splat(k, 12);
      b = v128.xor(b, v128.and(is, bits));
      b2 = v128.xor(b2, v128.and(is2, bits));
      bits = v128.load32_splat(k, 16);
      c = v128.xor(c, v128.and(is, bits));
      c2 = v128.xor(c2, v128.and(is2, bits));
      bits = v128.load32_splat(k, 20);
      d = v128.xor(d, v128.and(is, bits));
      d2 = v128.xor(d2, v128.and(is2, bits));
    }
    const u = f32x4.sub(x, s), u2 = f32x4.sub(y, s2);
    v128.store(to + at, f32x4.add(a, f32x4.mul(u, f32x4.add(b, f32x4.mul(u, f32x4.add(c, f32x4.mul(u, d)))))));
    v128.store(to + at + ahead, f32x4.add(a2, f32x4.mul(u2, f32x4.add(b2, f32x4.mul(u2, f32x4.add(c2, f32x4.mul(u2, d2)))))));
  }
}

/** The same for a curve of many segments, one sample at a time; made ready by core/curve.ts: `last` is the index of the way out. */
export function bendPlane(
  from: usize, to: usize, n: i32,
  starts: usize, cubics: usize, hints: usize, last: i32, hintScale: f64
): void {
  const first = load<f64>(starts + 8);
  const end = load<f64>(starts + (<usize>last << 3));
  for (let i: usize = 0, bytes = <usize>n << 2; i < bytes; i += 4) {
    const x = <f64>load<f32>(from + i);
    let segment: i32;
    let u: f64;
    if (x >= first && x < end) {
      segment = <i32>load<u16>(hints + (<usize><i32>((x - first) * hintScale) << 1));
      while (x >= load<f64>(starts + (<usize>(segment + 1) << 3))) segment++;
      u = x - load<f64>(starts + (<usize>segment << 3));
    } else if (x < first) {
      segment = 0;
      u = x;
    } else {
      segment = last;
      u = x - end;
    }
    const at = cubics + (<usize>segment << 5);
    store<f32>(to + i, <f32>(load<f64>(at) + u * (load<f64>(at, 8) + u * (load<f64>(at, 16) + u * load<f64>(at, 24)))));
  }
}

/**
 * Levels with a middle: t to the `power` between black and white, straight on beyond either. Near black a small power is so
 * steep that black comes in two parts, the float and what it leaves out.
 */
export function levelsPlane(
  from: usize, to: usize, n: i32,
  black: f32, rest: f32, scale: f32, power: f32, outBlack: f32, span: f32, below: f32
): void {
  const one = f32x4.splat(1), zero = f32x4.splat(0), p = f32x4.splat(power);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const above = f32x4.sub(f32x4.sub(v128.load(from + at), f32x4.splat(black)), f32x4.splat(rest));
    const t = f32x4.mul(above, f32x4.splat(scale));
    const inside = f32x4.pmin(one, f32x4.pmax(f32x4.splat(1.1754944e-38), t));
    const curve = exp2(f32x4.mul(p, log2(inside)));
    const over = f32x4.add(one, f32x4.mul(p, f32x4.sub(t, one)));
    const under = f32x4.mul(t, f32x4.splat(below));
    const u = v128.bitselect(over, v128.bitselect(curve, under, f32x4.gt(t, zero)), f32x4.ge(t, one));
    v128.store(to + at, f32x4.add(f32x4.splat(outBlack), f32x4.mul(u, f32x4.splat(span))));
  }
}

// @ts-ignore: decorator
@inline
function turnsOf(a: v128, b: v128): v128 {
  const x = f32x4.abs(a), y = f32x4.abs(b), zero = f32x4.splat(0);
  const q = f32x4.div(f32x4.pmin(x, y), f32x4.pmax(f32x4.pmax(x, y), f32x4.splat(1e-30)));
  const s = f32x4.mul(q, q);
  let p = f32x4.add(f32x4.mul(s, f32x4.splat(-0.0117212)), f32x4.splat(0.0526533215));
  p = f32x4.add(f32x4.mul(s, p), f32x4.splat(-0.1164328715));
  p = f32x4.add(f32x4.mul(s, p), f32x4.splat(0.1935435346));
  p = f32x4.add(f32x4.mul(s, p), f32x4.splat(-0.3326233406));
  let angle = f32x4.mul(q, f32x4.add(f32x4.mul(s, p), f32x4.splat(0.9999772599)));
  angle = v128.bitselect(f32x4.sub(f32x4.splat(1.5707963267948966), angle), angle, f32x4.gt(y, x));
  angle = v128.bitselect(f32x4.sub(f32x4.splat(3.141592653589793), angle), angle, f32x4.lt(a, zero));
  angle = v128.bitselect(f32x4.neg(angle), angle, f32x4.lt(b, zero));
  const turn = f32x4.mul(angle, f32x4.splat(0.15915494309189535));
  return f32x4.add(turn, v128.and(f32x4.lt(turn, zero), f32x4.splat(1)));
}

/** The four numbers of a table at `k`, and `t` of the way to the next. */
// @ts-ignore: decorator
@inline
function between(table: usize, k: i32, t: v128): v128 {
  const at = table + (<usize>k << 4);
  const low = v128.load(at);
  return f32x4.add(low, f32x4.mul(f32x4.sub(v128.load(at, 16), low), t));
}

/** Turns and scales a and b by their hue, and lightness with them: four numbers for each of `steps` + 1 hues in `table`. */
export function turnHues(
  l: usize, p: usize, q: usize, n: i32,
  table: usize, steps: i32, vibrance: f32, vivid: f32, base: f32, grey: f32
): void {
  const half = f32x4.splat(0.5), one = f32x4.splat(1), zero = f32x4.splat(0);
  for (let i: usize = 0, bytes = <usize>n << 2; i < bytes; i += 16) {
    const a = f32x4.mul(f32x4.sub(v128.load(p + i), half), f32x4.splat(256));
    const b = f32x4.mul(f32x4.sub(v128.load(q + i), half), f32x4.splat(256));
    const at = f32x4.mul(turnsOf(a, b), f32x4.splat(<f32>steps));
    const k = i32x4.min_s(i32x4.trunc_sat_f32x4_s(at), i32x4.splat(steps - 1));
    const t = f32x4.sub(at, f32x4.convert_i32x4_s(k));
    const v0 = between(table, i32x4.extract_lane(k, 0), i32x4.shuffle(t, t, 0, 0, 0, 0));
    const v1 = between(table, i32x4.extract_lane(k, 1), i32x4.shuffle(t, t, 1, 1, 1, 1));
    const v2 = between(table, i32x4.extract_lane(k, 2), i32x4.shuffle(t, t, 2, 2, 2, 2));
    const v3 = between(table, i32x4.extract_lane(k, 3), i32x4.shuffle(t, t, 3, 3, 3, 3));
    const low01 = i32x4.shuffle(v0, v1, 0, 4, 1, 5), low23 = i32x4.shuffle(v2, v3, 0, 4, 1, 5);
    const high01 = i32x4.shuffle(v0, v1, 2, 6, 3, 7), high23 = i32x4.shuffle(v2, v3, 2, 6, 3, 7);
    const cos = i32x4.shuffle(low01, low23, 0, 1, 4, 5), sin = i32x4.shuffle(low01, low23, 2, 3, 6, 7);
    const light = i32x4.shuffle(high01, high23, 2, 3, 6, 7);
    const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)));
    const dull = f32x4.pmax(zero, f32x4.sub(one, f32x4.mul(chroma, f32x4.splat(1 / vivid))));
    const lively = f32x4.add(one, f32x4.mul(f32x4.splat(vibrance), dull));
    const gain = f32x4.mul(i32x4.shuffle(high01, high23, 0, 1, 4, 5), f32x4.mul(lively, f32x4.splat(1.0 / 256)));
    const fade = f32x4.pmin(one, f32x4.mul(chroma, f32x4.splat(1 / grey)));
    const factor = f32x4.pmax(zero, f32x4.add(f32x4.splat(base), f32x4.mul(light, fade)));
    v128.store(l + i, f32x4.mul(v128.load(l + i), factor));
    v128.store(p + i, f32x4.add(f32x4.mul(f32x4.sub(f32x4.mul(a, cos), f32x4.mul(b, sin)), gain), half));
    v128.store(q + i, f32x4.add(f32x4.mul(f32x4.add(f32x4.mul(a, sin), f32x4.mul(b, cos)), gain), half));
  }
}
