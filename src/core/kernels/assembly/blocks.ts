// Blocks of 8×8 samples, shrunk in the cosine transform and laid over each other: see spatial/shrink-blocks.ts.

const A: f32 = 0.35355339059327373; // √(1/8)
const B: f32 = 0.46193976625564337; // cos(π/8) / 2
const C: f32 = 0.19134171618254492; // sin(π/8) / 2
const C1: f32 = 0.49039264020161522; // cos(π/16) / 2, and so on
const C3: f32 = 0.41573480615127262;
const C5: f32 = 0.27778511650980114;
const C7: f32 = 0.09754516100806412;

// @ts-ignore: decorator
@inline
function times(v: v128, by: f32): v128 {
  return f32x4.mul(v, f32x4.splat(by));
}
// @ts-ignore: decorator
@inline
function four(a: v128, x: f32, b: v128, y: f32, c: v128, z: f32, d: v128, w: f32): v128 {
  return f32x4.add(f32x4.add(times(a, x), times(b, y)), f32x4.add(times(c, z), times(d, w)));
}

/** The cosine transform (DCT-II, orthonormal) down four columns, rows `stride` bytes apart, to `at`, where they are 32 apart. */
function forward(from: usize, stride: usize, at: usize): void {
  const second = from + stride, third = second + stride, fourth = third + stride;
  const fifth = fourth + stride, sixth = fifth + stride, seventh = sixth + stride;
  const x0 = v128.load(from), x1 = v128.load(second), x2 = v128.load(third), x3 = v128.load(fourth);
  const x4 = v128.load(fifth), x5 = v128.load(sixth), x6 = v128.load(seventh), x7 = v128.load(seventh + stride);
  const s0 = f32x4.add(x0, x7), s1 = f32x4.add(x1, x6), s2 = f32x4.add(x2, x5), s3 = f32x4.add(x3, x4);
  const d0 = f32x4.sub(x0, x7), d1 = f32x4.sub(x1, x6), d2 = f32x4.sub(x2, x5), d3 = f32x4.sub(x3, x4);
  const p = f32x4.add(s0, s3), q = f32x4.add(s1, s2), r = f32x4.sub(s0, s3), s = f32x4.sub(s1, s2);
  v128.store(at, times(f32x4.add(p, q), A));
  v128.store(at, times(f32x4.sub(p, q), A), 128);
  v128.store(at, f32x4.add(times(r, B), times(s, C)), 64);
  v128.store(at, f32x4.sub(times(r, C), times(s, B)), 192);
  v128.store(at, four(d0, C1, d1, C3, d2, C5, d3, C7), 32);
  v128.store(at, four(d0, C3, d1, -C7, d2, -C1, d3, -C5), 96);
  v128.store(at, four(d0, C5, d1, -C1, d2, C7, d3, C3), 160);
  v128.store(at, four(d0, C7, d1, -C5, d2, C3, d3, -C1), 224);
}

/** Back again. */
function backward(at: usize): void {
  const x0 = v128.load(at), x1 = v128.load(at, 32), x2 = v128.load(at, 64), x3 = v128.load(at, 96);
  const x4 = v128.load(at, 128), x5 = v128.load(at, 160), x6 = v128.load(at, 192), x7 = v128.load(at, 224);
  const t0 = times(f32x4.add(x0, x4), A), t1 = times(f32x4.sub(x0, x4), A);
  const t2 = f32x4.add(times(x2, B), times(x6, C)), t3 = f32x4.sub(times(x2, C), times(x6, B));
  const s0 = f32x4.add(t0, t2), s3 = f32x4.sub(t0, t2), s1 = f32x4.add(t1, t3), s2 = f32x4.sub(t1, t3);
  const d0 = four(x1, C1, x3, C3, x5, C5, x7, C7);
  const d1 = four(x1, C3, x3, -C7, x5, -C1, x7, -C5);
  const d2 = four(x1, C5, x3, -C1, x5, C7, x7, C3);
  const d3 = four(x1, C7, x3, -C5, x5, C3, x7, -C1);
  v128.store(at, f32x4.add(s0, d0));
  v128.store(at, f32x4.add(s1, d1), 32);
  v128.store(at, f32x4.add(s2, d2), 64);
  v128.store(at, f32x4.add(s3, d3), 96);
  v128.store(at, f32x4.sub(s3, d3), 128);
  v128.store(at, f32x4.sub(s2, d2), 160);
  v128.store(at, f32x4.sub(s1, d1), 192);
  v128.store(at, f32x4.sub(s0, d0), 224);
}

/** Four rows of four samples at `from`, turned, written to `to`; both of rows of 32 bytes. */
// @ts-ignore: decorator
@inline
function turnQuarter(from: usize, to: usize): void {
  const a = v128.load(from), b = v128.load(from, 32), c = v128.load(from, 64), d = v128.load(from, 96);
  const ab = v128.shuffle<f32>(a, b, 0, 4, 1, 5), AB = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const cd = v128.shuffle<f32>(c, d, 0, 4, 1, 5), CD = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(to, v128.shuffle<f32>(ab, cd, 0, 1, 4, 5));
  v128.store(to, v128.shuffle<f32>(ab, cd, 2, 3, 6, 7), 32);
  v128.store(to, v128.shuffle<f32>(AB, CD, 0, 1, 4, 5), 64);
  v128.store(to, v128.shuffle<f32>(AB, CD, 2, 3, 6, 7), 96);
}

/** Bytes of a strip: four columns of a block in the cosine transform down them, a column a row. */
const STRIP: usize = 128;
/** So many strips lie one behind the other, before the last is put in front again: two that do are eight columns. */
const STRIPS: usize = 16;

/** Four columns of eight rows at `from`, transformed and turned, at `to`; `room` holds a block. */
function stripOf(from: usize, stride: usize, to: usize, room: usize): void {
  forward(from, stride, room);
  turnQuarter(room, to);
  turnQuarter(room + 128, to + 16);
}

/** The strip that follows one, where it is put. */
function behind(strip: usize, strips: usize): usize {
  return strip == strips + (STRIPS - 2) * STRIP ? strips : strip + STRIP;
}

/** Transforms the four columns behind `strip` into the strip behind it, and both along their rows into a block. */
// @ts-ignore: decorator
@inline
function blockOf(from: usize, stride: usize, strip: usize, to: usize, room: usize): void {
  stripOf(from + 16, stride, strip + STRIP, room);
  forward(strip, 32, to);
  forward(strip + 16, 32, to + 16);
}

/** Lays a strip over `sum` and what it weighs over `weights`; `room` holds a block. */
function lay(strip: usize, weight: f32, sum: usize, weights: usize, stride: usize, room: usize): void {
  turnQuarter(strip, room);
  turnQuarter(strip + 16, room + 128);
  backward(room);
  const weighs = f32x4.splat(weight);
  for (let k: usize = 0; k < 256; k += 32) {
    v128.store(sum, f32x4.add(v128.load(sum), v128.load(room + k)));
    v128.store(weights, f32x4.add(v128.load(weights), weighs));
    sum += stride;
    weights += stride;
  }
}

/** What the noise is where the picture is as bright as `v`: `curve` holds from, nodes a unit, the last node, and the nodes. */
// @ts-ignore: decorator
@inline
function sigmaAt(curve: usize, v: f32): f32 {
  const last = load<f32>(curve, 8);
  const place = min(last, max(<f32>0, (v - load<f32>(curve)) * load<f32>(curve, 4)));
  const node = <usize>min(last - 1, floor(place));
  const low = load<f32>(curve + (node << 2), 12), high = load<f32>(curve + (node << 2), 16);
  return low + (high - low) * (place - <f32>node);
}

// @ts-ignore: decorator
@inline
function sumOf(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}

/**
 * Adds the shrunk blocks of a plane, every fourth of every `step`-th row and in turn from row to row, to `sum`, and what they weigh to
 * `weights`. With no `pilot` coefficients under `threshold` σ go; with one each is kept as far as the pilot's is signal. Blocks that follow
 * each other share four columns: these are transformed once, and laid once. `room` holds 1280 samples.
 */
export function shrinkBlocks(
  plane: usize, pilot: usize, sum: usize, weights: usize, width: i32, height: i32, threshold: f32, curve: usize, step: i32, room: usize
): void {
  const stride = <usize>width << 2;
  const block = room, other = room + 256, spare = room + 512, merged = room + 768, carried = room + 896;
  const strips = room + 1024, others = strips + STRIPS * STRIP;
  for (let y = 0; y + 8 <= height; y += step) {
    const first = (y / step) & 3;
    if (first + 8 > width) continue;
    const start = <usize>(y * width + first) << 2;
    let strip = strips, guide = others;
    stripOf(plane + start, stride, strip, spare);
    if (pilot) stripOf(pilot + start, stride, guide, spare);
    // What the last block lays over the columns that it shares with the next.
    memory.fill(carried, 0, STRIP);
    let before: f32 = 0;
    let at = start;
    for (let x = first; x + 8 <= width; x += 4) {
      blockOf(plane + at, stride, strip, block, spare);
      const mean = load<f32>(block);
      let weight: f32;
      if (pilot) {
        blockOf(pilot + at, stride, guide, other, spare);
        const sigma = sigmaAt(curve, load<f32>(other) * 0.125);
        const noise = f32x4.splat(max(<f32>1e-20, sigma * sigma));
        let kept = f32x4.splat(0);
        for (let k: usize = 0; k < 256; k += 16) {
          const p = v128.load(other + k);
          const power = f32x4.mul(p, p);
          const gain = f32x4.div(power, f32x4.add(power, noise));
          kept = f32x4.add(kept, f32x4.mul(gain, gain));
          v128.store(block + k, f32x4.mul(v128.load(block + k), gain));
        }
        weight = 1 / max(<f32>1, sumOf(kept));
      } else {
        const least = f32x4.splat(threshold * sigmaAt(curve, mean * 0.125));
        const one = f32x4.splat(1);
        let kept = f32x4.splat(0);
        for (let k: usize = 0; k < 256; k += 16) {
          const c = v128.load(block + k);
          const stays = f32x4.gt(f32x4.abs(c), least);
          kept = f32x4.add(kept, v128.and(stays, one));
          v128.store(block + k, v128.and(c, stays));
        }
        const count = max(<f32>1, sumOf(kept));
        weight = 1 / (count * sqrt<f32>(count));
      }
      // The mean stays.
      store<f32>(block, mean);
      backward(block);
      backward(block + 16);
      const weighs = f32x4.splat(weight);
      for (let k: usize = 0; k < STRIP; k += 16) {
        v128.store(merged + k, f32x4.add(v128.load(carried + k), f32x4.mul(v128.load(block + k), weighs)));
        v128.store(carried + k, f32x4.mul(v128.load(block + k, 128), weighs));
      }
      lay(merged, before + weight, sum + at, weights + at, stride, spare);
      before = weight;
      at += 16;
      const next = behind(strip, strips);
      if (next < strip) memory.copy(next, strip + STRIP, STRIP);
      strip = next;
      if (pilot) {
        const follows = behind(guide, others);
        if (follows < guide) memory.copy(follows, guide + STRIP, STRIP);
        guide = follows;
      }
    }
    lay(carried, before, sum + at, weights + at, stride, spare);
  }
}

/** `sum` over `weights` of `height` rows of `width` samples, `stride` samples apart; to a plane without gaps. */
export function quotientRows(sum: usize, weights: usize, to: usize, width: i32, height: i32, stride: i32): void {
  for (let y = 0; y < height; y++) {
    const from = <usize>(y * stride) << 2;
    const into = to + (<usize>(y * width) << 2);
    const whole: usize = <usize>(width & ~3) << 2;
    for (let at: usize = 0; at < whole; at += 16)
      v128.store(into + at, f32x4.div(v128.load(sum + from + at), v128.load(weights + from + at)));
    for (let at = whole, end: usize = <usize>width << 2; at < end; at += 4)
      store<f32>(into + at, load<f32>(sum + from + at) / load<f32>(weights + from + at));
  }
}

// @ts-ignore: decorator
@inline
function held(v: i32, most: i32): i32 {
  return v < 0 ? 0 : v > most ? most : v;
}
// @ts-ignore: decorator
@inline
function sample(plane: usize, i: i32): f64 {
  return load<f32>(plane + (<usize>i << 2));
}

/** Means of two by two of a plane at (x, y) of its level, to one of `w` by `h` at half of that; what lies beyond is held. */
export function halveBlocks(from: usize, x: i32, y: i32, width: i32, height: i32, to: usize, w: i32, h: i32): void {
  const left = x >> 1, top = y >> 1;
  for (let v = 0; v < h; v++) {
    const a = held(2 * (top + v) - y, height - 1) * width;
    const b = held(2 * (top + v) + 1 - y, height - 1) * width;
    for (let u = 0; u < w; u++) {
      const i = held(2 * (left + u) - x, width - 1);
      const k = held(2 * (left + u) + 1 - x, width - 1);
      const mean = 0.25 * (sample(from, a + i) + sample(from, a + k) + sample(from, b + i) + sample(from, b + k));
      store<f32>(to + (<usize>(v * w + u) << 2), <f32>mean);
    }
  }
}

/** Adds a plane of half the size, at (cx, cy) of its level, to one at (x, y): straight between its samples. */
export function addDoubled(
  plane: usize, x: i32, y: i32, width: i32, height: i32, coarse: usize, cx: i32, cy: i32, cw: i32, ch: i32
): void {
  for (let v = 0; v < height; v++) {
    const row = y + v;
    const a = held((row >> 1) - cy, ch - 1) * cw;
    const b = held((row >> 1) + (row & 1 ? 1 : -1) - cy, ch - 1) * cw;
    for (let u = 0; u < width; u++) {
      const column = x + u;
      const i = held((column >> 1) - cx, cw - 1);
      const k = held((column >> 1) + (column & 1 ? 1 : -1) - cx, cw - 1);
      const to = plane + (<usize>(v * width + u) << 2);
      const near = 0.75 * sample(coarse, a + i) + 0.25 * sample(coarse, a + k);
      const far = 0.75 * sample(coarse, b + i) + 0.25 * sample(coarse, b + k);
      store<f32>(to, <f32>(<f64>load<f32>(to) + (0.75 * near + 0.25 * far)));
    }
  }
}

/** What `coarse` says otherwise than `made`, up to `share` σ of it and the less the more it is beyond; into `coarse`. */
export function believedPart(coarse: usize, made: usize, n: i32, share: f32, curve: usize): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 4) {
    const value = load<f32>(made + at);
    const by = load<f32>(coarse + at) - value;
    const size = max(<f32>0, min(abs(by), 2 * share * sigmaAt(curve, value) - abs(by)));
    store<f32>(coarse + at, by < 0 ? -size : size);
  }
}
