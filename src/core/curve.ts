import { eitherWay, simd, takeTable } from './kernels/arena';

export type CurvePoint = readonly [x: number, y: number];

/** A curve made ready to be read many times: its segments as cubics of (x − start). */
export interface Curve {
  readonly starts: Float64Array;
  /** Four coefficients a segment, rising powers. The first and last are the straight ways out. */
  readonly cubics: Float64Array;
  /** The segment at which the search begins, by 64ths of the way between the first and last point. */
  readonly hints: Uint16Array;
  readonly hintScale: number;
  /** The segments as the kernel for few of them reads them; null where they are too many for it. */
  readonly few: Int32Array | null;
}

const HINTS = 64;
/** Up to so many segments it is faster to look at each than to search. */
const FEW = 16;

/**
 * Tangents of the monotone cubic (Fritsch & Carlson 1980) through points of rising x: where the secants turn,
 * the curve is level; elsewhere the weighted harmonic mean of the secants (Fritsch & Butland 1984).
 */
function tangents(points: readonly CurvePoint[]): number[] {
  const n = points.length;
  const h = points.slice(1).map(([x], i) => x - points[i][0]);
  const d = points.slice(1).map(([, y], i) => (y - points[i][1]) / h[i]);
  if (n === 2) return [d[0], d[0]];
  const end = (h0: number, h1: number, d0: number, d1: number): number => {
    const t = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    if (t * d0 <= 0) return 0;
    return d0 * d1 <= 0 && Math.abs(t) > 3 * Math.abs(d0) ? 3 * d0 : t;
  };
  return points.map((_, i) => {
    if (i === 0) return end(h[0], h[1], d[0], d[1]);
    if (i === n - 1) return end(h[n - 2], h[n - 3], d[n - 2], d[n - 3]);
    const [before, after] = [d[i - 1], d[i]];
    if (before * after <= 0) return 0;
    const w1 = 2 * h[i] + h[i - 1];
    const w2 = h[i] + 2 * h[i - 1];
    return (w1 + w2) / (w1 / before + w2 / after);
  });
}

/** @param points two or more, x rising; beyond the first and the last the curve goes straight on */
export function makeCurve(points: readonly CurvePoint[]): Curve {
  const n = points.length;
  const t = tangents(points);
  const starts = new Float64Array(n + 1);
  const cubics = new Float64Array(4 * (n + 1));
  const [x0, y0] = points[0];
  starts[0] = -Infinity;
  // The way in is told from the first point, so that it may be reached from minus infinity.
  cubics.set([y0 - t[0] * x0, t[0], 0, 0], 0);
  for (let i = 0; i < n - 1; i++) {
    const [x, y] = points[i];
    const h = points[i + 1][0] - x;
    const d = (points[i + 1][1] - y) / h;
    starts[i + 1] = x;
    cubics.set(
      [y, t[i], (3 * d - 2 * t[i] - t[i + 1]) / h, (t[i] + t[i + 1] - 2 * d) / (h * h)],
      4 * (i + 1)
    );
  }
  starts[n] = points[n - 1][0];
  cubics.set([points[n - 1][1], t[n - 1], 0, 0], 4 * n);
  const span = points[n - 1][0] - x0;
  const hints = Uint16Array.from({ length: HINTS + 1 }, (_, i) => {
    const x = x0 + (span * i) / HINTS;
    let segment = 1;
    while (segment < n - 1 && starts[segment + 1] <= x) segment++;
    return segment;
  });
  return { starts, cubics, hints, hintScale: HINTS / span, few: fewSegments(starts, cubics) };
}

/** For each segment where it begins, then its own start and coefficients as the bits that change from one to the next. */
function fewSegments(starts: Float64Array, cubics: Float64Array): Int32Array | null {
  if (starts.length > FEW) return null;
  const floats = Float32Array.from(
    [...starts].flatMap((start, k) => [start, k === 0 ? 0 : start, ...cubics.subarray(4 * k, 4 * k + 4)])
  );
  const bits = new Int32Array(floats.buffer);
  return bits.map((v, i) => (i < STRIDE || i % STRIDE === 0 ? v : v ^ bits[i - STRIDE]));
}

const STRIDE = 6;

/** The curve's value at `x`. */
export function readCurve({ starts, cubics, hints, hintScale }: Curve, x: number): number {
  const last = starts.length - 1;
  const first = starts[1];
  let segment: number;
  let u: number;
  if (x < first) return cubics[0] + cubics[1] * x;
  if (x >= starts[last]) {
    segment = last;
    u = x - starts[last];
  } else {
    segment = hints[((x - first) * hintScale) | 0];
    while (x >= starts[segment + 1]) segment++;
    u = x - starts[segment];
  }
  const at = 4 * segment;
  return cubics[at] + u * (cubics[at + 1] + u * (cubics[at + 2] + u * cubics[at + 3]));
}

/** Puts the first `n` values through the curve. The two may be the same array. */
export function bend(curve: Curve, source: Float32Array, out: Float32Array, n: number): void {
  const { starts, cubics, hints, hintScale, few } = curve;
  eitherWay(
    [source, out],
    (from, to) => {
      if (few) return simd.bendFew(from, to, n, takeTable(few), starts.length);
      const [s, c, h] = [takeTable(starts), takeTable(cubics), takeTable(hints)];
      simd.bendPlane(from, to, n, s, c, h, starts.length - 1, hintScale);
    },
    () => bendPlainly(curve, source, out, n)
  );
}

function bendPlainly(curve: Curve, source: Float32Array, out: Float32Array, n: number): void {
  const { starts, cubics, hints, hintScale } = curve;
  const last = starts.length - 1;
  const first = starts[1];
  const end = starts[last];
  for (let i = 0; i < n; i++) {
    const x = source[i];
    // The way of `readCurve`, with everything at hand.
    if (x >= first && x < end) {
      let segment = hints[((x - first) * hintScale) | 0];
      while (x >= starts[segment + 1]) segment++;
      const u = x - starts[segment];
      const at = 4 * segment;
      out[i] = cubics[at] + u * (cubics[at + 1] + u * (cubics[at + 2] + u * cubics[at + 3]));
    } else out[i] = readCurve(curve, x);
  }
}
