import { makeCurve, readCurve, type CurvePoint } from '$core/curve';

/** Points nearer to each other than this can't be told apart by hand. */
const GAP = 0.004;
const rounded = (v: number): number => Math.round(v * 1e4) / 1e4;

/** The points with one of them moved, between its neighbours. */
export function movedPoint(
  points: readonly CurvePoint[],
  i: number,
  x: number,
  y: number,
  [least, most]: readonly [number, number]
): CurvePoint[] {
  const low = i > 0 ? points[i - 1][0] + GAP : 0;
  const high = i < points.length - 1 ? points[i + 1][0] - GAP : 1;
  const inside: CurvePoint = [
    rounded(Math.min(high, Math.max(low, x))),
    rounded(Math.min(most, Math.max(least, y)))
  ];
  return points.map((p, k) => (k === i ? inside : p));
}

/** The points with one more on the curve at `x`, and its place; one that is near enough stands for it. */
export function addedPoint(
  points: readonly CurvePoint[],
  x: number
): { points: readonly CurvePoint[]; at: number } {
  const near = points.findIndex(([px]) => Math.abs(px - x) < 3 * GAP);
  if (near >= 0) return { points, at: near };
  const y = readCurve(makeCurve(points), x);
  const next = [...points, [rounded(x), rounded(y)] as CurvePoint].sort((a, b) => a[0] - b[0]);
  return { points: next, at: next.findIndex(([px]) => px === rounded(x)) };
}

/** The curve as the points of an SVG line `width`×`height`. */
export function curveLine(points: readonly CurvePoint[], width: number, height: number): string {
  const ready = makeCurve(points);
  return Array.from({ length: 129 }, (_, i) => {
    const x = i / 128;
    return `${(x * width).toFixed(1)},${((1 - readCurve(ready, x)) * height).toFixed(1)}`;
  }).join(' ');
}
