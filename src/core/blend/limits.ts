/** A trapezoid over tones: 0 below a, rising to 1 at b, 1 to c, falling to 0 at d; see docs/format.md. */
export type Trapezoid = readonly [number, number, number, number];

export const isAllTones = ([a, b, c, d]: Trapezoid): boolean => a === 0 && b === 0 && c === 1 && d === 1;

/** The trapezoid's value at tone `v`, 0…1. Ends at 0 and at 1 are open to values outside 0…1. */
export function trapezoid([a, b, c, d]: Trapezoid, v: number): number {
  const noFloor = a === 0 && b === 0;
  const noCeiling = c === 1 && d === 1;
  const rise = noFloor || v >= b ? 1 : v < a ? 0 : (v - a) / (b - a);
  const fall = noCeiling || v <= c ? 1 : v > d ? 0 : (d - v) / (d - c);
  return Math.min(rise, fall);
}

/** Multiplies `amount` by the trapezoid of `tones`, the first `n` samples. */
export function limit(amount: Float32Array, tones: Float32Array, shape: Trapezoid, n: number): void {
  if (isAllTones(shape)) return;
  const [a, b, c, d] = shape;
  const noFloor = a === 0 && b === 0;
  const noCeiling = c === 1 && d === 1;
  const up = 1 / (b - a);
  const down = 1 / (d - c);
  for (let i = 0; i < n; i++) {
    const v = tones[i];
    const rise = noFloor || v >= b ? 1 : v < a ? 0 : (v - a) * up;
    const fall = noCeiling || v <= c ? 1 : v > d ? 0 : (d - v) * down;
    amount[i] *= rise < fall ? rise : fall;
  }
}
