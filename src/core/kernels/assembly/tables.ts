// Kernels that read tables: one sample at a time, as tables can't be read four at once.

/** Puts a plane through a curve made ready by core/curve.ts: `last` is the index of the way out. */
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
 * Levels with a middle: `table` holds `segments` + 2 values over even steps of t; from `low` on (in steps) it is
 * fine enough. `power` is 1/mid.
 */
export function levelsPlane(
  from: usize, to: usize, n: i32,
  black: f64, scale: f64, power: f64, outBlack: f64, span: f64,
  table: usize, segments: f64, low: f64, below: f64
): void {
  for (let i: usize = 0, bytes = <usize>n << 2; i < bytes; i += 4) {
    const t = (<f64>load<f32>(from + i) - black) * scale;
    const at = t * segments;
    let value: f64;
    if (at >= low && at < segments) {
      const k = <i32>at;
      const a = load<f64>(table + (<usize>k << 3));
      value = a + (load<f64>(table + (<usize>k << 3), 8) - a) * (at - <f64>k);
    } else if (t >= 1) value = outBlack + span * (1 + power * (t - 1));
    else if (t >= 0) value = outBlack + span * Math.pow(t, power);
    else value = outBlack + span * t * below;
    store<f32>(to + i, <f32>value);
  }
}

// @ts-ignore: decorator
@inline
function turnOf(a: f32, b: f32): f32 {
  const x = abs(a), y = abs(b);
  if (x == 0 && y == 0) return 0;
  const steep = y > x;
  const q: f32 = steep ? x / y : y / x;
  const s: f32 = q * q;
  let angle: f32 = q * (0.9999772599 + s * (-0.3326233406 + s * (0.1935435346 + s * (-0.1164328715 + s * (0.0526533215 + s * -0.0117212)))));
  if (steep) angle = <f32>1.5707963267948966 - angle;
  if (a < 0) angle = <f32>3.141592653589793 - angle;
  if (b < 0) angle = -angle;
  const turn: f32 = angle * <f32>0.15915494309189535;
  return turn < 0 ? turn + 1 : turn;
}

/** Turns and scales a and b by their hue, and lightness with them: four numbers for each of `steps` + 1 hues in `table`. */
export function turnHues(
  l: usize, p: usize, q: usize, n: i32,
  table: usize, steps: f32, vibrance: f32, vivid: f32, base: f32, grey: f32
): void {
  for (let i: usize = 0, bytes = <usize>n << 2; i < bytes; i += 4) {
    const a: f32 = (load<f32>(p + i) - 0.5) * 256;
    const b: f32 = (load<f32>(q + i) - 0.5) * 256;
    const at: f32 = turnOf(a, b) * steps;
    const k = <i32>at;
    const t: f32 = at - <f32>k;
    const low = v128.load(table + (<usize>k << 4));
    const high = v128.load(table + (<usize>k << 4), 16);
    const v = f32x4.add(low, f32x4.mul(f32x4.sub(high, low), f32x4.splat(t)));
    const cos = f32x4.extract_lane(v, 0), sin = f32x4.extract_lane(v, 1);
    let gain = f32x4.extract_lane(v, 2);
    const light = f32x4.extract_lane(v, 3);
    let factor: f32 = base;
    if (vibrance != 0 || light != 0) {
      const chroma: f32 = sqrt(a * a + b * b);
      if (chroma < vivid) gain *= 1 + vibrance * (1 - chroma / vivid);
      factor = max<f32>(0, base + light * (chroma < grey ? chroma / grey : 1));
    }
    store<f32>(l + i, load<f32>(l + i) * factor);
    const scale: f32 = gain / 256;
    store<f32>(p + i, (a * cos - b * sin) * scale + 0.5);
    store<f32>(q + i, (a * sin + b * cos) * scale + 0.5);
  }
}
