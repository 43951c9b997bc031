import { expect, it } from 'vitest';
import type { CurvePoint } from '$core/curve';
import { addedPoint, curveLine, movedPoint } from './curve-points';

const straight: CurvePoint[] = [
  [0, 0],
  [1, 1]
];

it('moves a point between its neighbours and within its bounds', () => {
  const points: CurvePoint[] = [
    [0, 0],
    [0.5, 0.5],
    [1, 1]
  ];
  expect(movedPoint(points, 1, 0.3, 0.8, [0, 1])[1]).toEqual([0.3, 0.8]);
  expect(movedPoint(points, 1, 2, 3, [-0.5, 1.5])[1]).toEqual([0.996, 1.5]);
  expect(movedPoint(points, 0, -1, -1, [0, 1])[0]).toEqual([0, 0]);
});

it('adds a point on the curve, or takes the one that is there', () => {
  const { points, at } = addedPoint(straight, 0.25);
  expect(points[at]).toEqual([0.25, 0.25]);
  expect(addedPoint(points, 0.2501)).toEqual({ points, at });
});

it('draws the curve from left to right, upwards', () => {
  const line = curveLine(straight, 100, 50).split(' ');
  expect(line[0]).toBe('0.0,50.0');
  expect(line[64]).toBe('50.0,25.0');
  expect(line.at(-1)).toBe('100.0,0.0');
});
