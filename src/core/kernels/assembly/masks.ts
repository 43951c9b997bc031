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

/** Adds `weight` times a plane to another. */
export function addPlane(to: usize, from: usize, n: i32, weight: f32): void {
  const w = f32x4.splat(weight);
  for (let at: usize = 0, end: usize = <usize>n << 2; at < end; at += 16) v128.store(to + at, f32x4.add(v128.load(to + at), f32x4.mul(w, v128.load(from + at))));
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
