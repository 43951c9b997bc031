import { describe, expect, it } from 'vitest';
import { multiply } from '../colour/xyz';
import {
  fromFrame,
  innerRect,
  isPlain,
  lyingPlain,
  project,
  rotation,
  squareTo,
  toFrame,
  translation,
  type Geometry
} from './geometry';

const frame = { width: 300, height: 200 };
const turned = (degrees: number): Geometry => ({
  ...lyingPlain(frame),
  toFrame: rotation(-degrees, { x: 150, y: 100 })
});

describe('how a picture lies on its frame', () => {
  it('is plain to begin with, and no longer once it is turned or moved', () => {
    expect(isPlain(lyingPlain(frame))).toBe(true);
    expect(isPlain(turned(0.1))).toBe(false);
    expect(isPlain({ ...lyingPlain(frame), width: 299 })).toBe(false);
    expect(isPlain({ ...lyingPlain(frame), toFrame: translation(0, 1) })).toBe(false);
  });

  it('turns clockwise on the screen, about the place that is given', () => {
    const quarter = rotation(90, { x: 10, y: 10 });
    const right = project(quarter, { x: 20, y: 10 });
    // What was right of the middle lies below it.
    expect([right.x, right.y]).toEqual([10, 20].map((v) => expect.closeTo(v, 9)));
    const middle = project(quarter, { x: 10, y: 10 });
    expect([middle.x, middle.y]).toEqual([10, 10].map((v) => expect.closeTo(v, 9)));
  });

  it('carries every place to the frame and back', () => {
    const corners = [
      { x: 3, y: 5 },
      { x: 290, y: 12 },
      { x: 280, y: 190 },
      { x: 14, y: 180 }
    ];
    const toUnit = squareTo(corners);
    const g: Geometry = { width: 1, height: 1, frame, toFrame: multiply(toUnit, translation(0, 0)) };
    for (const p of [
      { x: 0.1, y: 0.9 },
      { x: 0.5, y: 0.5 },
      { x: 0.99, y: 0.02 }
    ]) {
      const back = fromFrame(g, toFrame(g, p));
      expect([back.x, back.y]).toEqual([p.x, p.y].map((v) => expect.closeTo(v, 9)));
    }
    [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1]
    ].forEach(([x, y], i) => {
      const found = toFrame(g, { x, y });
      expect([found.x, found.y]).toEqual([corners[i].x, corners[i].y].map((v) => expect.closeTo(v, 9)));
    });
  });
});

describe('the largest part without empty corners', () => {
  it('is the whole where nothing is turned', () => {
    expect(innerRect(lyingPlain(frame))).toEqual({ x: 0, y: 0, width: 300, height: 200 });
  });

  it.each([0.5, 3, 10, 30])(
    'lies inside the frame when it is turned by %d°, and nearly touches it',
    (degrees) => {
      const g = turned(degrees);
      const { x, y, width, height } = innerRect(g);
      const corners = [
        { x, y },
        { x: x + width, y },
        { x: x + width, y: y + height },
        { x, y: y + height }
      ].map((p) => toFrame(g, p));
      const room = Math.min(...corners.flatMap((p) => [p.x, p.y, frame.width - p.x, frame.height - p.y]));
      expect(room).toBeGreaterThan(-1);
      expect(room).toBeLessThan(2);
      expect(width / height).toBeCloseTo(1.5, 1);
    }
  );

  it('of a square turned by 45° is 1/√2 as wide', () => {
    const square = { width: 200, height: 200 };
    const g: Geometry = { ...lyingPlain(square), toFrame: rotation(45, { x: 100, y: 100 }) };
    // A square inside a square, turned by 45°: its side is 1/√2.
    expect(innerRect(g).width).toBe(Math.floor(200 / Math.SQRT2));
    // A square turned by 45° holds 2 : 1 as wide as √2·a·2/3, a its side: |x| + |y| ≤ a/√2 with x = 2y.
    expect(innerRect(g, 2)).toMatchObject({ width: Math.floor((2 * 2 * 200) / Math.SQRT2 / 3) });
  });
});
