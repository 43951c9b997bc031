import { describe, expect, it } from 'vitest';
import { bend, makeCurve, readCurve, type CurvePoint } from './curve';
import { randomStream } from './random';

const random = randomStream(12);

/** Points of rising x, y anywhere. */
function anyPoints(): CurvePoint[] {
  const count = 2 + Math.floor(random() * 9);
  let x = random() * 0.2;
  return Array.from({ length: count }, () => [(x += 0.01 + 0.2 * random()), 1.4 * random() - 0.2] as const);
}

describe('a curve', () => {
  it('goes through its points', () => {
    for (let round = 0; round < 50; round++) {
      const points = anyPoints();
      const curve = makeCurve(points);
      for (const [x, y] of points) expect(readCurve(curve, x)).toBeCloseTo(y, 9);
    }
  });

  it('never overshoots between two points', () => {
    for (let round = 0; round < 50; round++) {
      const points = anyPoints();
      const curve = makeCurve(points);
      points.slice(1).forEach(([x1, y1], i) => {
        const [x0, y0] = points[i];
        for (let t = 0; t <= 1; t += 0.05) {
          const y = readCurve(curve, x0 + t * (x1 - x0));
          expect(y).toBeGreaterThan(Math.min(y0, y1) - 1e-9);
          expect(y).toBeLessThan(Math.max(y0, y1) + 1e-9);
        }
      });
    }
  });

  it('has no corner at its points', () => {
    const points = anyPoints();
    const curve = makeCurve(points);
    const e = 1e-6;
    for (const [x] of points) {
      const before = (readCurve(curve, x) - readCurve(curve, x - e)) / e;
      const after = (readCurve(curve, x + e) - readCurve(curve, x)) / e;
      expect(Math.abs(after - before)).toBeLessThan(0.02 * Math.max(1, Math.abs(before)));
    }
  });

  it('of two points is the straight line through them, everywhere', () => {
    const curve = makeCurve([
      [0.2, 0.1],
      [0.7, 0.9]
    ]);
    for (let x = -1; x <= 2; x += 0.1) expect(readCurve(curve, x)).toBeCloseTo(0.1 + 1.6 * (x - 0.2), 9);
  });

  it('is level where its points turn', () => {
    const curve = makeCurve([
      [0, 0],
      [0.5, 1],
      [1, 0]
    ]);
    expect(readCurve(curve, 0.5 - 1e-5)).toBeCloseTo(1, 7);
    expect(readCurve(curve, 0.5 + 1e-5)).toBeCloseTo(1, 7);
  });

  it('holds points that all but touch apart', () => {
    const points: CurvePoint[] = [
      [0, 0],
      [0.5, 0.1],
      [0.5001, 0.9],
      [1, 1]
    ];
    const curve = makeCurve(points);
    for (const [x, y] of points) expect(readCurve(curve, x)).toBeCloseTo(y, 9);
    expect(readCurve(curve, 0.49)).toBeLessThan(0.1);
    expect(readCurve(curve, 0.51)).toBeGreaterThan(0.9);
  });

  it('bends a plane as it reads single values, missing ones included', () => {
    const curve = makeCurve(anyPoints());
    const plane = Float32Array.from({ length: 400 }, () => 3 * random() - 1);
    plane[7] = Number.NaN;
    const out = new Float32Array(400);
    bend(curve, plane, out, 400);
    plane.forEach((x, i) => {
      if (i === 7) expect(out[i]).toBeNaN();
      else expect(out[i]).toBe(Math.fround(readCurve(curve, x)));
    });
  });
});
