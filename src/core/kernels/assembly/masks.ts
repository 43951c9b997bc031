// Kernels of masks and of what joins a candidate to its base.

/** Clamps a plane to 0…1, in place; what is no number becomes 0. */
export function clampPlane(plane: usize, n: i32): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) v128.store(plane + at, clamped(v128.load(plane + at)));
}

// @ts-ignore: decorator
@inline
function clamped(x: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), x));
}

/**
 * Joins a term to a mask, in place. The term is clamped, turned over by `invert` (1) and faded by `amount`; `mode`: 0
 * intersect, 1 add, 2 subtract, 3 min, 4 max, 5 difference.
 */
export function joinPlane(mask: usize, term: usize, n: i32, mode: i32, invert: f32, amount: f32): void {
  const one = f32x4.splat(1), a = f32x4.splat(amount);
  const scale = f32x4.splat(1 - 2 * invert), shift = f32x4.splat(invert);
  const full = mode === 0 || mode === 3;
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const m = v128.load(mask + at);
    const raw = f32x4.add(f32x4.mul(clamped(v128.load(term + at)), scale), shift);
    // Faded towards what has no effect: 1 where terms intersect, 0 elsewhere.
    const t = full ? f32x4.sub(one, f32x4.mul(a, f32x4.sub(one, raw))) : f32x4.mul(a, raw);
    let out = f32x4.mul(m, t);
    if (mode === 1) out = f32x4.sub(one, f32x4.mul(f32x4.sub(one, m), f32x4.sub(one, t)));
    else if (mode === 2) out = f32x4.mul(m, f32x4.sub(one, t));
    else if (mode === 3) out = f32x4.min(m, t);
    else if (mode === 4) out = f32x4.max(m, t);
    else if (mode === 5) out = f32x4.abs(f32x4.sub(m, t));
    v128.store(mask + at, out);
  }
}

/** Distance of three planes from a place, each difference times its own scale. */
export function distancePlane(x: usize, y: usize, z: usize, to: usize, n: i32, m: usize): void {
  const x0 = v128.load32_splat(m, 0), y0 = v128.load32_splat(m, 4), z0 = v128.load32_splat(m, 8);
  const sx = v128.load32_splat(m, 12), sy = v128.load32_splat(m, 16), sz = v128.load32_splat(m, 20);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const dx = f32x4.mul(f32x4.sub(v128.load(x + at), x0), sx);
    const dy = f32x4.mul(f32x4.sub(v128.load(y + at), y0), sy);
    const dz = f32x4.mul(f32x4.sub(v128.load(z + at), z0), sz);
    v128.store(to + at, f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz))));
  }
}

/** base += amount·(blended − base), sample by sample. */
export function fadePlane(base: usize, blended: usize, amount: usize, n: i32): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const b = v128.load(base + at);
    v128.store(base + at, f32x4.add(b, f32x4.mul(v128.load(amount + at), f32x4.sub(v128.load(blended + at), b))));
  }
}

/** plane + gain·(plane − soft), where they differ by `threshold` or more. */
export function sharpenPlane(plane: usize, soft: usize, to: usize, n: i32, gain: f32, threshold: f32): void {
  const g = f32x4.splat(gain), least = f32x4.splat(threshold);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const v = v128.load(plane + at), d = f32x4.sub(v, v128.load(soft + at));
    v128.store(to + at, f32x4.add(v, v128.and(f32x4.mul(g, d), f32x4.ge(f32x4.abs(d), least))));
  }
}

/** Adds `weight` times a plane to another. */
export function addPlane(to: usize, from: usize, n: i32, weight: f32): void {
  const w = f32x4.splat(weight);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) v128.store(to + at, f32x4.add(v128.load(to + at), f32x4.mul(w, v128.load(from + at))));
}

/** Whether a sample of the three is missing (NaN). */
export function anyMissing(r: usize, g: usize, b: usize, n: i32): i32 {
  const whole: usize = <usize>(n & ~3) << 2;
  for (let at: usize = 0; at < whole; at += 16) {
    const sum = f32x4.add(f32x4.add(v128.load(r + at), v128.load(g + at)), v128.load(b + at));
    if (v128.any_true(f32x4.ne(sum, sum))) return 1;
  }
  for (let at = whole, end: usize = <usize>n << 2; at < end; at += 4) {
    const sum = load<f32>(r + at) + load<f32>(g + at) + load<f32>(b + at);
    if (sum != sum) return 1;
  }
  return 0;
}

/** Whether two planes hold the same, to the bit. */
export function samePlane(a: usize, b: usize, n: i32): i32 {
  const whole: usize = <usize>(n & ~3) << 2;
  for (let at: usize = 0; at < whole; at += 16) if (v128.any_true(v128.xor(v128.load(a + at), v128.load(b + at)))) return 0;
  for (let at = whole, end: usize = <usize>n << 2; at < end; at += 4) if (load<u32>(a + at) != load<u32>(b + at)) return 0;
  return 1;
}

/** Multiplies a plane by another. */
export function timesPlane(to: usize, by: usize, n: i32): void {
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) v128.store(to + at, f32x4.mul(v128.load(to + at), v128.load(by + at)));
}

/**
 * Lays one straight piece of a stroke into a plane `width` wide, rows `top` to `bottom`, columns `left` to `right`
 * (ends left out): the larger of what is there and the piece's own strength. `m`: x0, y0, x1, y1 in samples from the
 * plane's upper left, pressure at both ends, the radius inside which it is full, and that where it ends.
 */
export function strokePiece(plane: usize, width: i32, left: i32, right: i32, top: i32, bottom: i32, m: usize): void {
  const x0 = load<f32>(m), y0 = load<f32>(m, 4), dx = load<f32>(m, 8) - x0, dy = load<f32>(m, 12) - y0;
  const p0 = load<f32>(m, 16), dp = load<f32>(m, 20) - p0, inner = load<f32>(m, 24), outer = load<f32>(m, 28);
  const length2 = dx * dx + dy * dy;
  const inverse: f32 = length2 > 0 ? 1 / length2 : 0;
  const fall: f32 = 1 / (outer - inner);
  for (let y = top; y < bottom; y++) {
    const ry = <f32>y + 0.5 - y0;
    const row = plane + (<usize>(y * width) << 2);
    for (let x = left; x < right; x++) {
      const rx = <f32>x + 0.5 - x0;
      const t = min<f32>(1, max<f32>(0, (rx * dx + ry * dy) * inverse));
      const ox = rx - dx * t, oy = ry - dy * t;
      const d2 = ox * ox + oy * oy;
      if (d2 >= outer * outer) continue;
      const u = min<f32>(1, max<f32>(0, (outer - sqrt<f32>(d2)) * fall));
      const v = u * u * (3 - 2 * u) * (p0 + dp * t);
      const at = row + (<usize>x << 2);
      if (v > load<f32>(at)) store<f32>(at, v);
    }
  }
}

/** plane·scale + shift, in place. */
export function scalePlane(plane: usize, n: i32, scale: f32, shift: f32): void {
  const a = f32x4.splat(scale), b = f32x4.splat(shift);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) v128.store(plane + at, f32x4.add(f32x4.mul(v128.load(plane + at), a), b));
}

/** Lays a stroke of some flow on what is there: to + flow·s·(1 − to), or to·(1 − flow·s) where it erases. */
export function layPlane(to: usize, stroke: usize, n: i32, flow: f32, erase: i32): void {
  const one = f32x4.splat(1), f = f32x4.splat(flow);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) {
    const m = v128.load(to + at), s = f32x4.mul(f, v128.load(stroke + at));
    v128.store(to + at, erase ? f32x4.mul(m, f32x4.sub(one, s)) : f32x4.add(m, f32x4.mul(s, f32x4.sub(one, m))));
  }
}

/**
 * Largest value within `half` samples to either side, row by row: windows of one, two, four … samples, each of two of the
 * last, and two of them laid over each other. `row` has room for width + 2·half + 8 samples.
 */
function rowMaxima(from: usize, to: usize, width: i32, height: i32, half: i32, row: usize): void {
  const length = 2 * half + 1, padded = width + 2 * half;
  for (let y = 0; y < height; y++) {
    const source = from + (<usize>(y * width) << 2), target = to + (<usize>(y * width) << 2);
    for (let x = 0; x < padded + 8; x++) store<f32>(row + (<usize>x << 2), -1);
    memory.copy(row + (<usize>half << 2), source, <usize>width << 2);
    let window = 1;
    for (; 2 * window <= length; window *= 2) {
      const ahead = <usize>window << 2;
      for (let x = 0; x + window < padded; x += 4) {
        const at = row + (<usize>x << 2);
        v128.store(at, f32x4.max(v128.load(at), v128.load(at + ahead)));
      }
    }
    const last = <usize>(length - window) << 2;
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const at = row + (<usize>x << 2);
      v128.store(target + (<usize>x << 2), f32x4.max(v128.load(at), v128.load(at + last)));
    }
    for (; x < width; x++) {
      const at = row + (<usize>x << 2);
      store<f32>(target + (<usize>x << 2), max<f32>(load<f32>(at), load<f32>(at + last)));
    }
  }
}

/** The largest value within a disc of whole radius. `wide` is a plane of room, `row` as in `rowMaxima` for the radius. */
export function dilatePlane(from: usize, to: usize, width: i32, height: i32, radius: i32, wide: usize, row: usize): void {
  memory.copy(to, from, <usize>(width * height) << 2);
  let before = -1;
  for (let dy = radius; dy >= 0; dy--) {
    const half = <i32>Math.floor(Math.sqrt(<f64>(radius * radius - dy * dy)));
    if (half !== before) rowMaxima(from, wide, width, height, half, row);
    before = half;
    for (let turn = dy === 0 ? 1 : 0; turn < 2; turn++) {
      const shift = turn === 0 ? dy : -dy;
      const first = max(0, -shift), end = min(height, height - shift);
      let i = first * width;
      const stop = end * width;
      const ahead = <usize>(shift * width) << 2;
      for (; i + 4 <= stop; i += 4) {
        const at = <usize>i << 2;
        v128.store(to + at, f32x4.max(v128.load(to + at), v128.load(wide + at + ahead)));
      }
      for (; i < stop; i++) {
        const at = <usize>i << 2;
        store<f32>(to + at, max<f32>(load<f32>(to + at), load<f32>(wide + at + ahead)));
      }
    }
  }
}

/**
 * A ramp at places x, y of a level of `scale`, through the projective map `m` (nine doubles) to the frame: 1 at (`fx`, `fy`),
 * falling to 0 as far as (`dx`, `dy`) leads; straight, or round (1).
 */
export function rampPlane(to: usize, x: i32, y: i32, width: i32, height: i32, scale: f64, m: usize, round: i32): void {
  const a = load<f64>(m), b = load<f64>(m, 8), c = load<f64>(m, 16), d = load<f64>(m, 24), e = load<f64>(m, 32);
  const f = load<f64>(m, 40), g = load<f64>(m, 48), h = load<f64>(m, 56), i = load<f64>(m, 64);
  const fx = load<f64>(m, 72), fy = load<f64>(m, 80), dx = load<f64>(m, 88), dy = load<f64>(m, 96), length2 = load<f64>(m, 104);
  for (let v = 0; v < height; v++) {
    const qy = (<f64>(y + v) + 0.5) / scale;
    for (let u = 0; u < width; u++, to += 4) {
      const qx = (<f64>(x + u) + 0.5) / scale;
      const w = g * qx + h * qy + i;
      const px = (a * qx + b * qy + c) / w - fx, py = (d * qx + e * qy + f) / w - fy;
      const t = round ? Math.sqrt((px * px + py * py) / length2) : (px * dx + py * dy) / length2;
      store<f32>(to, <f32>(1 - t));
    }
  }
}
