// Kernels over planes of floats in this module's memory: four samples at a time. Plane addresses are multiples of
// 16 and planes are padded to whole groups of four, so that a kernel may run over the end. Coefficients come as
// floats at an address. Each is tested against the plain TypeScript kernel that says what it must give.

import { cubeRoot, decode, encode } from './power';

export {
  addPlane, anyMissing, clampPlane, dilatePlane, distancePlane, fadePlane, joinPlane, layPlane, rampPlane, samePlane, scalePlane, sharpenPlane, strokePiece, timesPlane
} from './masks';
export { addDoubled, believedPart, halveBlocks, quotientRows, shrinkBlocks } from './blocks';
export { filterRow, unfilterRow } from './png';
export { bendFew, bendPlane, levelsPlane, turnHues } from './tables';
export { expandPlane, extremeColumns, extremeRows, guided, reducePlane, shrinkRow, splineColumns, splineRows } from './spatial';

export function mixThree(x: usize, y: usize, z: usize, u: usize, v: usize, w: usize, n: i32, m: usize): void {
  const m0 = v128.load32_splat(m, 0), m1 = v128.load32_splat(m, 4), m2 = v128.load32_splat(m, 8), m3 = v128.load32_splat(m, 12);
  const m4 = v128.load32_splat(m, 16), m5 = v128.load32_splat(m, 20), m6 = v128.load32_splat(m, 24), m7 = v128.load32_splat(m, 28);
  const m8 = v128.load32_splat(m, 32), m9 = v128.load32_splat(m, 36), m10 = v128.load32_splat(m, 40), m11 = v128.load32_splat(m, 44);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const a = v128.load(x + at), b = v128.load(y + at), c = v128.load(z + at);
    v128.store(u + at, f32x4.add(f32x4.add(f32x4.mul(m0, a), f32x4.mul(m1, b)), f32x4.add(f32x4.mul(m2, c), m3)));
    v128.store(v + at, f32x4.add(f32x4.add(f32x4.mul(m4, a), f32x4.mul(m5, b)), f32x4.add(f32x4.mul(m6, c), m7)));
    v128.store(w + at, f32x4.add(f32x4.add(f32x4.mul(m8, a), f32x4.mul(m9, b)), f32x4.add(f32x4.mul(m10, c), m11)));
  }
}

// @ts-ignore: decorator
@inline
function row(m: usize, a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.add(f32x4.mul(v128.load32_splat(m, 0), a), f32x4.mul(v128.load32_splat(m, 4), b));
  const cd = f32x4.add(f32x4.mul(v128.load32_splat(m, 8), c), f32x4.mul(v128.load32_splat(m, 12), d));
  return f32x4.add(f32x4.add(ab, cd), v128.load32_splat(m, 16));
}

/** Four planes in place. */
export function mixFour(x: usize, y: usize, z: usize, w: usize, n: i32, m: usize): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const a = v128.load(x + at), b = v128.load(y + at), c = v128.load(z + at), d = v128.load(w + at);
    v128.store(x + at, row(m, a, b, c, d));
    v128.store(y + at, row(m + 20, a, b, c, d));
    v128.store(z + at, row(m + 40, a, b, c, d));
    v128.store(w + at, row(m + 60, a, b, c, d));
  }
}

export function decodePlane(from: usize, to: usize, n: i32): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) v128.store(to + at, decode(v128.load(from + at)));
}

export function encodePlane(from: usize, to: usize, n: i32): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) v128.store(to + at, encode(v128.load(from + at)));
}

// @ts-ignore: decorator
@inline
function product(m: usize, a: v128, b: v128, c: v128): v128 {
  const ab = f32x4.add(f32x4.mul(v128.load32_splat(m, 0), a), f32x4.mul(v128.load32_splat(m, 4), b));
  return f32x4.add(ab, f32x4.mul(v128.load32_splat(m, 8), c));
}

/** The coded value of the luminance of coded RGB; `m`: its three shares. */
export function luminance(r: usize, g: usize, b: usize, to: usize, n: i32, m: usize): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const light = product(m, decode(v128.load(r + at)), decode(v128.load(g + at)), decode(v128.load(b + at)));
    v128.store(to + at, encode(light));
  }
}

// @ts-ignore: decorator
@inline
function forward(t: v128): v128 {
  const epsilon = f32x4.splat(0.008856452);
  const line = f32x4.add(f32x4.mul(t, f32x4.splat(7.787037)), f32x4.splat(0.13793103));
  return v128.bitselect(cubeRoot(f32x4.pmax(epsilon, t)), line, f32x4.gt(t, epsilon));
}

// @ts-ignore: decorator
@inline
function backward(f: v128): v128 {
  const line = f32x4.mul(f32x4.sub(f, f32x4.splat(0.13793103)), f32x4.splat(0.12841855));
  return v128.bitselect(f32x4.mul(f32x4.mul(f, f), f), line, f32x4.gt(f, f32x4.splat(0.20689656)));
}

/** Samples that go through several loops one after another while they are in the nearest cache. */
const BLOCK: i32 = 1024;

// @ts-ignore: decorator
@inline
function decodeThree(r: usize, g: usize, b: usize, x: usize, y: usize, z: usize, n: i32): void {
  decodePlane(r, x, n);
  decodePlane(g, y, n);
  decodePlane(b, z, n);
}

/** `m`: linear RGB → XYZ over the white, row by row. */
export function labFromRgb(r: usize, g: usize, b: usize, l: usize, p: usize, q: usize, n: i32, m: usize): void {
  // One loop for each of a few formulas is faster than one for all: their constants stay in registers.
  for (let done = 0; done < n; done += BLOCK) {
    const count = min(BLOCK, n - done);
    const from = <usize>done << 2;
    decodeThree(r + from, g + from, b + from, l + from, p + from, q + from, count);
    lightToLab(l + from, p + from, q + from, count, m);
  }
}

/** The same, and the coded value of the luminance as above, of one decoding; `m` goes on with its three shares. */
export function labAndLuminance(r: usize, g: usize, b: usize, l: usize, p: usize, q: usize, lum: usize, n: i32, m: usize): void {
  for (let done = 0; done < n; done += BLOCK) {
    const count = min(BLOCK, n - done);
    const from = <usize>done << 2;
    decodeThree(r + from, g + from, b + from, l + from, p + from, q + from, count);
    for (let at = from, end = from + (<usize>count << 2); at < end; at += 16) {
      v128.store(lum + at, encode(product(m + 36, v128.load(l + at), v128.load(p + at), v128.load(q + at))));
    }
    lightToLab(l + from, p + from, q + from, count, m);
  }
}

/** Linear RGB → LAB, in place; `m` as above. */
export function lightToLab(l: usize, p: usize, q: usize, n: i32, m: usize): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const red = v128.load(l + at), green = v128.load(p + at), blue = v128.load(q + at);
    const x = forward(product(m, red, green, blue));
    const y = forward(product(m + 12, red, green, blue));
    const z = forward(product(m + 24, red, green, blue));
    const half = f32x4.splat(0.5);
    v128.store(l + at, f32x4.sub(f32x4.mul(y, f32x4.splat(1.16)), f32x4.splat(0.16)));
    v128.store(p + at, f32x4.add(f32x4.mul(f32x4.sub(x, y), f32x4.splat(1.953125)), half));
    v128.store(q + at, f32x4.add(f32x4.mul(f32x4.sub(y, z), f32x4.splat(0.78125)), half));
  }
}

// @ts-ignore: decorator
@inline
function weighed(m: usize, dx: v128, dz: v128): v128 {
  return f32x4.add(f32x4.mul(v128.load32_splat(m, 0), dx), f32x4.mul(v128.load32_splat(m, 8), dz));
}

/** `m`: XYZ over the white → linear RGB, row by row; a row totals 1. */
export function labToRgb(l: usize, p: usize, q: usize, r: usize, g: usize, b: usize, n: i32, m: usize): void {
  for (let done = 0; done < n; done += BLOCK) {
    const count = min(BLOCK, n - done);
    const from = <usize>done << 2;
    labToLight(l + from, p + from, q + from, r + from, g + from, b + from, count, m);
    encodePlane(r + from, r + from, count);
    encodePlane(g + from, g + from, count);
    encodePlane(b + from, b + from, count);
  }
}

/** LAB → linear RGB; `m` as above. */
export function labToLight(l: usize, p: usize, q: usize, r: usize, g: usize, b: usize, n: i32, m: usize): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const half = f32x4.splat(0.5);
    const fy = f32x4.mul(f32x4.add(v128.load(l + at), f32x4.splat(0.16)), f32x4.splat(0.86206895));
    const x = backward(f32x4.add(fy, f32x4.mul(f32x4.sub(v128.load(p + at), half), f32x4.splat(0.512))));
    const y = backward(fy);
    const z = backward(f32x4.sub(fy, f32x4.mul(f32x4.sub(v128.load(q + at), half), f32x4.splat(1.28))));
    // Each row of the matrix totals 1, so that it may work on what x and z differ from y.
    const dx = f32x4.sub(x, y), dz = f32x4.sub(z, y);
    v128.store(r + at, f32x4.add(y, weighed(m, dx, dz)));
    v128.store(g + at, f32x4.add(y, weighed(m + 12, dx, dz)));
    v128.store(b + at, f32x4.add(y, weighed(m + 24, dx, dz)));
  }
}

// @ts-ignore: decorator
@inline
function clamp(x: v128): v128 {
  // pmax and pmin give their first operand for NaN, so missing samples become 0.
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), x));
}

export function cmykFromRgb(r: usize, g: usize, b: usize, c: usize, m: usize, y: usize, k: usize, n: i32): void {
  const one = f32x4.splat(1);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const red = clamp(v128.load(r + at)), green = clamp(v128.load(g + at)), blue = clamp(v128.load(b + at));
    const brightest = f32x4.pmax(f32x4.pmax(red, green), blue);
    const some = f32x4.gt(brightest, f32x4.splat(0));
    const scale = v128.and(f32x4.div(one, brightest), some);
    v128.store(c + at, f32x4.mul(f32x4.sub(brightest, red), scale));
    v128.store(m + at, f32x4.mul(f32x4.sub(brightest, green), scale));
    v128.store(y + at, f32x4.mul(f32x4.sub(brightest, blue), scale));
    v128.store(k + at, f32x4.sub(one, brightest));
  }
}

export function cmykToRgb(c: usize, m: usize, y: usize, k: usize, r: usize, g: usize, b: usize, n: i32): void {
  const one = f32x4.splat(1);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const paper = f32x4.sub(one, v128.load(k + at));
    const red = f32x4.mul(f32x4.sub(one, v128.load(c + at)), paper);
    const green = f32x4.mul(f32x4.sub(one, v128.load(m + at)), paper);
    const blue = f32x4.mul(f32x4.sub(one, v128.load(y + at)), paper);
    v128.store(r + at, red);
    v128.store(g + at, green);
    v128.store(b + at, blue);
  }
}

/** Widens one channel of interleaved samples; `channels` is their number a pixel. */
export function widen8(from: usize, to: usize, n: i32, channels: i32, scale: f32): void {
  for (let i = 0; i < n; i++, from += channels) store<f32>(to + (<usize>i << 2), <f32>load<u8>(from) * scale);
}

export function widen16(from: usize, to: usize, n: i32, channels: i32, scale: f32): void {
  const step = <usize>channels << 1;
  for (let i = 0; i < n; i++, from += step) store<f32>(to + (<usize>i << 2), <f32>load<u16>(from) * scale);
}

/** Widens interleaved samples of three channels, all of them, four pixels at a time. */
export function widenThree(from: usize, r: usize, g: usize, b: usize, n: i32, scale: f32): void {
  const unit = f32x4.splat(scale);
  const whole: usize = <usize>(n & ~3) << 2;
  for (let at: usize = 0; at < whole; at += 16, from += 24) {
    const p = v128.load(from), q = v128.load(from, 8);
    const red = i16x8.shuffle(p, q, 0, 3, 6, 13, 0, 0, 0, 0);
    const green = i16x8.shuffle(p, q, 1, 4, 7, 14, 0, 0, 0, 0);
    const blue = i16x8.shuffle(p, q, 2, 5, 12, 15, 0, 0, 0, 0);
    v128.store(r + at, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(red)), unit));
    v128.store(g + at, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(green)), unit));
    v128.store(b + at, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(blue)), unit));
  }
  widen16(from, r + whole, n & 3, 3, scale);
  widen16(from + 2, g + whole, n & 3, 3, scale);
  widen16(from + 4, b + whole, n & 3, 3, scale);
}

// @ts-ignore: decorator
@inline
function fourMeans(a: v128, b: v128, c: v128, d: v128): v128 {
  return i32x4.shr_u(i32x4.add(i32x4.add(i32x4.add(a, b), i32x4.add(c, d)), i32x4.splat(2)), 2);
}

/**
 * 2×2 means, rounded, of two rows of interleaved samples of three channels: `n` pixels of half their width, two at a time.
 * Reads whole pairs of four pixels, and writes two samples more than its pixels.
 */
export function halveThree(top: usize, bottom: usize, to: usize, n: i32): void {
  for (let i = 0; i < n; i += 2, top += 24, bottom += 24, to += 12) {
    // Samples 0 to 7 and 4 to 11 of each row; what belongs to the left and to the right pixels of both pairs.
    const p = v128.load(top), q = v128.load(top, 8), r = v128.load(bottom), s = v128.load(bottom, 8);
    const a = i16x8.shuffle(p, q, 0, 1, 2, 6, 7, 12, 0, 0), b = i16x8.shuffle(p, q, 3, 4, 5, 13, 14, 15, 0, 0);
    const c = i16x8.shuffle(r, s, 0, 1, 2, 6, 7, 12, 0, 0), d = i16x8.shuffle(r, s, 3, 4, 5, 13, 14, 15, 0, 0);
    const low = fourMeans(i32x4.extend_low_i16x8_u(a), i32x4.extend_low_i16x8_u(b), i32x4.extend_low_i16x8_u(c), i32x4.extend_low_i16x8_u(d));
    const high = fourMeans(i32x4.extend_high_i16x8_u(a), i32x4.extend_high_i16x8_u(b), i32x4.extend_high_i16x8_u(c), i32x4.extend_high_i16x8_u(d));
    v128.store(to, i16x8.narrow_i32x4_u(low, high));
  }
}

export function widenFloat(from: usize, to: usize, n: i32, channels: i32): void {
  const step = <usize>channels << 2;
  for (let i = 0; i < n; i++, from += step) store<f32>(to + (<usize>i << 2), load<f32>(from));
}

/** Rounds one plane into one channel of interleaved integers, 0…1 clamped. */
export function narrow8(from: usize, to: usize, n: i32, channels: i32): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16, to += channels << 2) {
    const v = rounded(v128.load(from + at), 255);
    store<u8>(to, <u8>i32x4.extract_lane(v, 0));
    if (at + 4 < end) store<u8>(to + channels, <u8>i32x4.extract_lane(v, 1));
    if (at + 8 < end) store<u8>(to + 2 * channels, <u8>i32x4.extract_lane(v, 2));
    if (at + 12 < end) store<u8>(to + 3 * channels, <u8>i32x4.extract_lane(v, 3));
  }
}

export function narrow16(from: usize, to: usize, n: i32, channels: i32): void {
  const step = <usize>channels << 1;
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16, to += step << 2) {
    const v = rounded(v128.load(from + at), 65535);
    store<u16>(to, <u16>i32x4.extract_lane(v, 0));
    if (at + 4 < end) store<u16>(to + step, <u16>i32x4.extract_lane(v, 1));
    if (at + 8 < end) store<u16>(to + 2 * step, <u16>i32x4.extract_lane(v, 2));
    if (at + 12 < end) store<u16>(to + 3 * step, <u16>i32x4.extract_lane(v, 3));
  }
}

/** Lays one plane into one channel of interleaved floats: clamped to 0…1 unless `ranged`; what is missing becomes 0 unless `missing`. */
export function weaveFloat(from: usize, to: usize, n: i32, channels: i32, ranged: i32, missing: i32): void {
  const step = <usize>channels << 2;
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16, to += step << 2) {
    const x = v128.load(from + at);
    const there = f32x4.eq(x, x);
    const kept = ranged ? v128.and(x, there) : clamp(x);
    const v = missing ? v128.bitselect(kept, x, there) : kept;
    store<f32>(to, f32x4.extract_lane(v, 0));
    if (at + 4 < end) store<f32>(to + step, f32x4.extract_lane(v, 1));
    if (at + 8 < end) store<f32>(to + 2 * step, f32x4.extract_lane(v, 2));
    if (at + 12 < end) store<f32>(to + 3 * step, f32x4.extract_lane(v, 3));
  }
}

// @ts-ignore: decorator
@inline
function rounded(x: v128, most: f32): v128 {
  return i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(clamp(x), f32x4.splat(most)), f32x4.splat(0.5)));
}

/** Three planes (and alpha, where `a` is not 0) as 8-bit RGBA. */
export function screen(r: usize, g: usize, b: usize, a: usize, to: usize, n: i32): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const red = rounded(v128.load(r + at), 255);
    const green = i32x4.shl(rounded(v128.load(g + at), 255), 8);
    const blue = i32x4.shl(rounded(v128.load(b + at), 255), 16);
    const alpha = a ? i32x4.shl(rounded(v128.load(a + at), 255), 24) : i32x4.splat(0xff000000);
    v128.store(to + at, v128.or(v128.or(red, green), v128.or(blue, alpha)));
  }
}

/** Each row convolved with `count` (odd) weights; the ends of a row stand for what lies beyond them. */
export function convolveRows(from: usize, to: usize, width: i32, height: i32, weights: usize, count: i32): void {
  const h = count >> 1;
  for (let y = 0; y < height; y++) {
    const source = from + (<usize>(y * width) << 2);
    const target = to + (<usize>(y * width) << 2);
    let x = 0;
    while (x < width) {
      if (x >= h && x + h + 16 <= width) {
        // Sixteen at a time: each weight is read once for all of them.
        let a = f32x4.splat(0);
        let b = f32x4.splat(0);
        let c = f32x4.splat(0);
        let d = f32x4.splat(0);
        for (let k = 0; k < count; k++) {
          const weight = v128.load32_splat(weights + (<usize>k << 2));
          const at = source + (<usize>(x + k - h) << 2);
          a = f32x4.add(a, f32x4.mul(weight, v128.load(at)));
          b = f32x4.add(b, f32x4.mul(weight, v128.load(at, 16)));
          c = f32x4.add(c, f32x4.mul(weight, v128.load(at, 32)));
          d = f32x4.add(d, f32x4.mul(weight, v128.load(at, 48)));
        }
        const into = target + (<usize>x << 2);
        v128.store(into, a);
        v128.store(into, b, 16);
        v128.store(into, c, 32);
        v128.store(into, d, 48);
        x += 16;
      } else if (x >= h && x + h + 4 <= width) {
        let sum = f32x4.splat(0);
        for (let k = 0; k < count; k++) {
          sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(weights + (<usize>k << 2)), v128.load(source + (<usize>(x + k - h) << 2))));
        }
        v128.store(target + (<usize>x << 2), sum);
        x += 4;
      } else {
        let sum: f32 = 0;
        for (let k = 0; k < count; k++) {
          const at = min(max(x + k - h, 0), width - 1);
          sum += load<f32>(weights + (<usize>k << 2)) * load<f32>(source + (<usize>at << 2));
        }
        store<f32>(target + (<usize>x << 2), sum);
        x++;
      }
    }
  }
}

/** The same down the columns. `to` must not be `from`. */
export function convolveColumns(from: usize, to: usize, width: i32, height: i32, weights: usize, count: i32): void {
  const h = count >> 1;
  for (let y = 0; y < height; y++) {
    const target = to + (<usize>(y * width) << 2);
    let x = 0;
    for (; x + 16 <= width; x += 16) {
      let a = f32x4.splat(0);
      let b = f32x4.splat(0);
      let c = f32x4.splat(0);
      let d = f32x4.splat(0);
      for (let k = 0; k < count; k++) {
        const weight = v128.load32_splat(weights + (<usize>k << 2));
        const row = min(max(y + k - h, 0), height - 1);
        const at = from + (<usize>(row * width + x) << 2);
        a = f32x4.add(a, f32x4.mul(weight, v128.load(at)));
        b = f32x4.add(b, f32x4.mul(weight, v128.load(at, 16)));
        c = f32x4.add(c, f32x4.mul(weight, v128.load(at, 32)));
        d = f32x4.add(d, f32x4.mul(weight, v128.load(at, 48)));
      }
      const into = target + (<usize>x << 2);
      v128.store(into, a);
      v128.store(into, b, 16);
      v128.store(into, c, 32);
      v128.store(into, d, 48);
    }
    for (; x + 4 <= width; x += 4) {
      let sum = f32x4.splat(0);
      for (let k = 0; k < count; k++) {
        const row = min(max(y + k - h, 0), height - 1);
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(weights + (<usize>k << 2)), v128.load(from + (<usize>(row * width + x) << 2))));
      }
      v128.store(target + (<usize>x << 2), sum);
    }
    for (; x < width; x++) {
      let sum: f32 = 0;
      for (let k = 0; k < count; k++) {
        const row = min(max(y + k - h, 0), height - 1);
        sum += load<f32>(weights + (<usize>k << 2)) * load<f32>(from + (<usize>(row * width + x) << 2));
      }
      store<f32>(target + (<usize>x << 2), sum);
    }
  }
}

/** The first address that this module does not use itself. */
export function firstFree(): usize {
  return __heap_base;
}
