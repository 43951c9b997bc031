// Kernels that look at neighbours. Sums over windows are exact in doubles over multiples of a quantum, so that they are
// the same in whatever order they are made; see spatial/guided.ts, whose plain way they are tested against.

const QUANTUM: f64 = 1073741824;
const MOST: f64 = 16;

/** Sums over windows of 2r + 1 along each row, in place, over columns from…to of `values` (rows of `width`). */
function sumRows(values: usize, width: i32, height: i32, r: i32, row: usize): void {
  for (let y = 0; y < height; y++) {
    const at = values + (<usize>(y * width) << 3);
    memory.copy(row, at, <usize>width << 3);
    let sum: f64 = 0;
    for (let x = 0; x < r && x < width; x++) sum += load<f64>(row + (<usize>x << 3));
    for (let x = 0; x < width; x++) {
      if (x + r < width) sum += load<f64>(row + (<usize>(x + r) << 3));
      if (x > r) sum -= load<f64>(row + (<usize>(x - r - 1) << 3));
      store<f64>(at + (<usize>x << 3), sum);
    }
  }
}

/** The same down the columns; `ring` holds r + 1 rows, `sums` one. */
function sumColumns(values: usize, width: i32, height: i32, r: i32, ring: usize, sums: usize): void {
  const line = <usize>width << 3;
  memory.fill(sums, 0, line);
  for (let y = 0; y < r && y < height; y++) {
    const at = values + <usize>y * line;
    for (let x: usize = 0; x < line; x += 8) store<f64>(sums + x, load<f64>(sums + x) + load<f64>(at + x));
  }
  for (let y = 0; y < height; y++) {
    const slot = ring + <usize>(y % (r + 1)) * line;
    const at = values + <usize>y * line;
    const enters = values + <usize>(y + r) * line;
    const adds = y + r < height;
    const leaves = y > r;
    let x: usize = 0;
    for (; x + 16 <= line; x += 16) {
      let sum = v128.load(sums + x);
      if (adds) sum = f64x2.add(sum, v128.load(enters + x));
      if (leaves) sum = f64x2.sub(sum, v128.load(slot + x));
      v128.store(slot + x, v128.load(at + x));
      v128.store(at + x, sum);
      v128.store(sums + x, sum);
    }
    for (; x < line; x += 8) {
      let sum = load<f64>(sums + x);
      if (adds) sum += load<f64>(enters + x);
      if (leaves) sum -= load<f64>(slot + x);
      store<f64>(slot + x, load<f64>(at + x));
      store<f64>(at + x, sum);
      store<f64>(sums + x, sum);
    }
  }
}

/**
 * Guided filter of a plane by itself over windows of 2r + 1; writes the samples of the part nx, ny, nw, nh. `room` holds
 * two fields of doubles, then r + 3 rows of them.
 */
export function guided(
  plane: usize, to: usize, width: i32, height: i32,
  nx: i32, ny: i32, nw: i32, nh: i32,
  r: i32, epsilon: f64, room: usize
): void {
  const n = width * height;
  const means = room;
  const squares = room + (<usize>n << 3);
  const row = squares + (<usize>n << 3);
  const ring = row + (<usize>width << 3);
  const sums = ring + (<usize>(width * (r + 1)) << 3);
  for (let i = 0; i < n; i++) {
    let v = <f64>load<f32>(plane + (<usize>i << 2));
    if (v > MOST) v = MOST;
    else if (v < -MOST) v = -MOST;
    store<f64>(means + (<usize>i << 3), floor(v * QUANTUM + 0.5));
    store<f64>(squares + (<usize>i << 3), floor(v * v * QUANTUM + 0.5));
  }
  sumRows(means, width, height, r, row);
  sumColumns(means, width, height, r, ring, sums);
  sumRows(squares, width, height, r, row);
  sumColumns(squares, width, height, r, ring, sums);
  let i = 0;
  for (let y = 0; y < height; y++) {
    const rows = min(height - 1, y + r) - max(0, y - r) + 1;
    for (let x = 0; x < width; x++, i++) {
      const columns = min(width - 1, x + r) - max(0, x - r) + 1;
      const scale: f64 = 1 / (<f64>(rows * columns) * QUANTUM);
      const mean = load<f64>(means + (<usize>i << 3)) * scale;
      const variance = load<f64>(squares + (<usize>i << 3)) * scale - mean * mean;
      const slope: f64 = variance > 0 ? variance / (variance + epsilon) : epsilon > 0 ? 0 : 1;
      store<f64>(squares + (<usize>i << 3), floor(slope * QUANTUM + 0.5));
      store<f64>(means + (<usize>i << 3), floor(mean * (1 - slope) * QUANTUM + 0.5));
    }
  }
  sumRows(squares, width, height, r, row);
  sumColumns(squares, width, height, r, ring, sums);
  sumRows(means, width, height, r, row);
  sumColumns(means, width, height, r, ring, sums);
  for (let y = ny; y < ny + nh; y++) {
    const rows = min(height - 1, y + r) - max(0, y - r) + 1;
    for (let x = nx; x < nx + nw; x++) {
      const at = y * width + x;
      const columns = min(width - 1, x + r) - max(0, x - r) + 1;
      const value = load<f64>(squares + (<usize>at << 3)) * <f64>load<f32>(plane + (<usize>at << 2)) + load<f64>(means + (<usize>at << 3));
      store<f32>(to + (<usize>at << 2), <f32>(value / (<f64>(rows * columns) * QUANTUM)));
    }
  }
}

/**
 * A line of `count` places of the coarse grid, each the weighted sum of `taps` samples of `row`, beginning at `first` and
 * `d` apart; taps are a multiple of four, filled up with weights of 0.
 */
export function shrinkRow(row: usize, to: usize, first: i32, d: i32, count: i32, weights: usize, taps: i32): void {
  let at = row + (<usize>first << 2);
  for (let i = 0; i < count; i++, at += <usize>d << 2) {
    let sum = f32x4.splat(0);
    for (let k: usize = 0, end = <usize>taps << 2; k < end; k += 16) {
      sum = f32x4.add(sum, f32x4.mul(v128.load(weights + k), v128.load(at + k)));
    }
    const total = (f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1)) + (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3));
    store<f32>(to + (<usize>i << 2), total);
  }
}

// @ts-ignore: decorator
@inline
function at(base: usize, i: i32): f64 {
  return <f64>load<f32>(base + (<usize>i << 2));
}

// @ts-ignore: decorator
@inline
function inside(i: i32, most: i32): i32 {
  return i < 0 ? 0 : i > most ? most : i;
}

/**
 * The next coarser level of a plane (see spatial/laplacian.ts), in doubles as the plain way computes. The first coarse
 * place stands at fx, fy of the fine plane; `between` holds cw × height samples.
 */
export function reducePlane(
  from: usize, width: i32, height: i32, fx: i32, fy: i32,
  to: usize, cw: i32, ch: i32, between: usize
): void {
  for (let v = 0; v < height; v++) {
    const row = from + (<usize>(v * width) << 2);
    for (let i = 0; i < cw; i++) {
      const m = inside(fx + 2 * i, width - 1);
      const a = at(row, inside(m - 2, width - 1)), b = at(row, inside(m - 1, width - 1));
      const c = at(row, inside(m + 1, width - 1)), d = at(row, inside(m + 2, width - 1));
      store<f32>(between + (<usize>(v * cw + i) << 2), <f32>(0.375 * at(row, m) + 0.25 * (b + c) + 0.0625 * (a + d)));
    }
  }
  for (let j = 0; j < ch; j++) {
    const m = inside(fy + 2 * j, height - 1);
    const pa = between + (<usize>(inside(m - 2, height - 1) * cw) << 2), pb = between + (<usize>(inside(m - 1, height - 1) * cw) << 2);
    const pm = between + (<usize>(m * cw) << 2);
    const pc = between + (<usize>(inside(m + 1, height - 1) * cw) << 2), pd = between + (<usize>(inside(m + 2, height - 1) * cw) << 2);
    const row = to + (<usize>(j * cw) << 2);
    for (let i = 0; i < cw; i++) {
      store<f32>(row + (<usize>i << 2), <f32>(0.375 * at(pm, i) + 0.25 * (at(pb, i) + at(pc, i)) + 0.0625 * (at(pa, i) + at(pd, i))));
    }
  }
}

/** A coarser level read at the places of a finer one, which stands at fx, fy of its level; `line` holds cw samples. */
export function expandPlane(
  coarse: usize, cx: i32, cy: i32, cw: i32, ch: i32,
  fx: i32, fy: i32, width: i32, height: i32, to: usize, line: usize
): void {
  const most = cw - 1;
  for (let v = 0; v < height; v++) {
    const middle = ((fy + v) >> 1) - cy;
    const pa = coarse + (<usize>(inside(middle - 1, ch - 1) * cw) << 2);
    const pb = coarse + (<usize>(inside(middle, ch - 1) * cw) << 2);
    const pc = coarse + (<usize>(inside(middle + 1, ch - 1) * cw) << 2);
    if ((fy + v) & 1) {
      for (let i = 0; i < cw; i++) store<f32>(line + (<usize>i << 2), <f32>(0.5 * (at(pb, i) + at(pc, i))));
    } else {
      for (let i = 0; i < cw; i++) store<f32>(line + (<usize>i << 2), <f32>(0.125 * (at(pa, i) + at(pc, i)) + 0.75 * at(pb, i)));
    }
    const row = to + (<usize>(v * width) << 2);
    for (let u = 0; u < width; u++) {
      const x = fx + u;
      const i = (x >> 1) - cx;
      const m = at(line, inside(i, most)), r = at(line, inside(i + 1, most));
      const value = x & 1 ? 0.5 * (m + r) : 0.125 * (at(line, inside(i - 1, most)) + r) + 0.75 * m;
      store<f32>(row + (<usize>u << 2), <f32>value);
    }
  }
}

/** One sample of a B3 spline whose five samples stand `near` and `far` before it and behind it. */
// @ts-ignore: decorator
@inline
function splined(far0: f32, near0: f32, middle: f32, near1: f32, far1: f32): f32 {
  return <f32>0.375 * middle + <f32>0.25 * (near0 + near1) + <f32>0.0625 * (far0 + far1);
}
// @ts-ignore: decorator
@inline
function splinedFour(far0: usize, near0: usize, middle: usize, near1: usize, far1: usize): v128 {
  return f32x4.add(
    f32x4.add(
      f32x4.mul(f32x4.splat(0.375), v128.load(middle)),
      f32x4.mul(f32x4.splat(0.25), f32x4.add(v128.load(near0), v128.load(near1)))
    ),
    f32x4.mul(f32x4.splat(0.0625), f32x4.add(v128.load(far0), v128.load(far1)))
  );
}

/** Each row smoothed by a B3 spline with its samples `step` apart; the ends of a row stand for what lies beyond them. */
export function splineRows(from: usize, to: usize, width: i32, height: i32, step: i32): void {
  const last = width - 1;
  const one = <usize>step << 2;
  for (let y = 0; y < height; y++) {
    const source = from + (<usize>(y * width) << 2);
    const target = to + (<usize>(y * width) << 2);
    let x = 0;
    while (x < width) {
      const at = source + (<usize>x << 2);
      if (x >= 2 * step && x + 2 * step + 4 <= width) {
        v128.store(target + (<usize>x << 2), splinedFour(at - 2 * one, at - one, at, at + one, at + 2 * one));
        x += 4;
        continue;
      }
      const far0 = load<f32>(source + (<usize>max(0, x - 2 * step) << 2));
      const near0 = load<f32>(source + (<usize>max(0, x - step) << 2));
      const near1 = load<f32>(source + (<usize>min(last, x + step) << 2));
      const far1 = load<f32>(source + (<usize>min(last, x + 2 * step) << 2));
      store<f32>(target + (<usize>x << 2), splined(far0, near0, load<f32>(at), near1, far1));
      x++;
    }
  }
}

/** The same down the columns. `to` must not be `from`. */
export function splineColumns(from: usize, to: usize, width: i32, height: i32, step: i32): void {
  const last = height - 1;
  for (let y = 0; y < height; y++) {
    let a = from + (<usize>(max(0, y - 2 * step) * width) << 2);
    let b = from + (<usize>(max(0, y - step) * width) << 2);
    let c = from + (<usize>(y * width) << 2);
    let d = from + (<usize>(min(last, y + step) * width) << 2);
    let e = from + (<usize>(min(last, y + 2 * step) * width) << 2);
    let target = to + (<usize>(y * width) << 2);
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      v128.store(target, splinedFour(a, b, c, d, e));
      a += 16;
      b += 16;
      c += 16;
      d += 16;
      e += 16;
      target += 16;
    }
    for (; x < width; x++) {
      store<f32>(target, splined(load<f32>(a), load<f32>(b), load<f32>(c), load<f32>(d), load<f32>(e)));
      a += 4;
      b += 4;
      c += 4;
      d += 4;
      e += 4;
      target += 4;
    }
  }
}

/** Of each pair of samples the lesser, or with `most` the larger. */
// @ts-ignore: decorator
@inline
function ofBoth(a: v128, b: v128, most: bool): v128 {
  return most ? f32x4.max(a, b) : f32x4.min(a, b);
}

/**
 * Writes the least sample, or with `most` the largest, of the 2r + 1 about each of a row. `line` holds `width` + 2r + 8 samples:
 * a row with nothing at either side, in which the windows are doubled until they are as wide.
 */
export function extremeRows(
  from: usize,
  to: usize,
  width: i32,
  height: i32,
  r: i32,
  most: bool,
  line: usize
): void {
  const nothing: f32 = most ? -Infinity : Infinity;
  const whole = width + 2 * r;
  for (let y = 0; y < height; y++) {
    const at = <usize>(y * width) << 2;
    for (let x = 0; x < r; x++) store<f32>(line + (<usize>x << 2), nothing);
    memory.copy(line + (<usize>r << 2), from + at, <usize>width << 2);
    for (let x = width + r; x < whole + 8; x++) store<f32>(line + (<usize>x << 2), nothing);
    let wide = 1;
    while (wide <= r) {
      const off = <usize>wide << 2;
      // What stands behind is read before it is changed.
      for (let x = 0; x + wide < whole; x += 4) {
        const place = line + (<usize>x << 2);
        v128.store(place, ofBoth(v128.load(place), v128.load(place + off), most));
      }
      wide += wide;
    }
    const off = <usize>(2 * r + 1 - wide) << 2;
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const place = line + (<usize>x << 2);
      v128.store(to + at + (<usize>x << 2), ofBoth(v128.load(place), v128.load(place + off), most));
    }
    for (; x < width; x++) {
      const place = line + (<usize>x << 2);
      const a = load<f32>(place), b = load<f32>(place + off);
      store<f32>(to + at + (<usize>x << 2), most ? max(a, b) : min(a, b));
    }
  }
}

/** The same down the columns. `to` must not be `from`. */
export function extremeColumns(from: usize, to: usize, width: i32, height: i32, r: i32, most: bool): void {
  const line = <usize>width << 2;
  for (let y = 0; y < height; y++) {
    const first = from + <usize>max(0, y - r) * line;
    const last = from + <usize>min(height - 1, y + r) * line;
    const target = to + <usize>y * line;
    let x: usize = 0;
    for (; x + 16 <= line; x += 16) {
      let found = v128.load(first + x);
      for (let at = first + line; at <= last; at += line) found = ofBoth(found, v128.load(at + x), most);
      v128.store(target + x, found);
    }
    for (; x < line; x += 4) {
      let found = load<f32>(first + x);
      for (let at = first + line; at <= last; at += line) {
        const v = load<f32>(at + x);
        found = most ? max(found, v) : min(found, v);
      }
      store<f32>(target + x, found);
    }
  }
}
