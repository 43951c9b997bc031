import { describe, expect, it } from 'vitest';
import type { StraightenParams } from '../ops/straighten';
import { pictureGeometry } from '../path/plan';
import { evaluate } from '../path/evaluate';
import { planOf, floatFrame, noiseFrame, render, stepOf } from '../testing';
import { fromFrame, lyingPlain, squareTo, project, toFrame } from './geometry';

const frame = noiseFrame(120, 80, false, 'f32');
const [red] = render(frame, []);
const geometryOf = (params: Partial<StraightenParams>): ReturnType<typeof pictureGeometry> =>
  pictureGeometry(frame, [stepOf('straighten', params)]);

describe('straighten', () => {
  it('that only crops copies the samples', () => {
    const [found] = render(frame, [stepOf('straighten', { crop: { x: 13, y: 7, width: 50, height: 40 } })]);
    found.forEach((v, i) => expect(v).toBe(red[(7 + Math.floor(i / 50)) * 120 + 13 + (i % 50)]));
  });

  it('by a quarter turn copies them too', () => {
    const turned = stepOf('straighten', { angle: 90 });
    const [found] = render(frame, [turned]);
    expect(found).toHaveLength(120 * 80);
    // Clockwise: the upper left of the result is the lower left of the frame.
    found.forEach((v, i) =>
      expect(Math.abs(v - red[(79 - (i % 80)) * 120 + Math.floor(i / 80)])).toBeLessThan(1e-5)
    );
  });

  it('resamples by Lanczos 3, within 1e-5 of its definition', () => {
    const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));
    const lanczos = (x: number): number => (Math.abs(x) < 3 ? sinc(x) * sinc(x / 3) : 0);
    const angle = 11;
    const step = stepOf('straighten', { angle, crop: { x: 0, y: 0, width: 120, height: 80 } });
    const [found] = render(frame, [step]);
    const [c, s] = [Math.cos((-angle * Math.PI) / 180), Math.sin((-angle * Math.PI) / 180)];
    for (let y = 20; y < 60; y += 7) {
      for (let x = 30; x < 90; x += 9) {
        const [dx, dy] = [x + 0.5 - 60, y + 0.5 - 40];
        const [u, v] = [60 + c * dx - s * dy - 0.5, 40 + s * dx + c * dy - 0.5];
        let [sum, weights] = [0, 0];
        for (let j = Math.floor(v) - 2; j <= Math.floor(v) + 3; j++) {
          for (let i = Math.floor(u) - 2; i <= Math.floor(u) + 3; i++) {
            const w = lanczos(u - i) * lanczos(v - j);
            sum += w * red[j * 120 + i];
            weights += w;
          }
        }
        expect(found[y * 120 + x]).toBeCloseTo(sum / weights, 5);
      }
    }
  });

  it('is one resampling however many of it there are', () => {
    const there = stepOf('straighten', { angle: 9, crop: { x: 0, y: 0, width: 120, height: 80 } });
    const back = stepOf('straighten', { angle: -9, crop: { x: 0, y: 0, width: 120, height: 80 } });
    const [found] = render(frame, [there, back]);
    expect(found.every((v, i) => Math.abs(v - red[i]) < 1e-6)).toBe(true);
  });

  it('leaves no empty corner where nothing is cropped by hand', () => {
    const white = floatFrame(150, 100, new Float32Array(45000).fill(1));
    const steps = [
      stepOf('straighten', {
        angle: 6,
        corners: [
          [10, 5],
          [140, 0],
          [149, 99],
          [2, 92]
        ]
      })
    ];
    const { geometry } = planOf(white, steps);
    expect(geometry.width).toBeLessThan(150);
    expect(geometry.width / geometry.height).toBeCloseTo(1.5, 1);
    render(white, steps).forEach((plane) => expect(Math.min(...plane)).toBeGreaterThan(0.999));
  });

  it('takes four places to the corners of an upright rectangle', () => {
    const corners: [number, number][] = [
      [20, 10],
      [100, 16],
      [104, 70],
      [12, 60]
    ];
    const params = { corners, crop: { x: 0, y: 0, width: 120, height: 80 } } as StraightenParams;
    const found = corners.map(([x, y]) => fromFrame(geometryOf(params), { x, y }));
    expect(found[0].y).toBeCloseTo(found[1].y, 6);
    expect(found[2].y).toBeCloseTo(found[3].y, 6);
    expect(found[0].x).toBeCloseTo(found[3].x, 6);
    expect(found[1].x).toBeCloseTo(found[2].x, 6);
    // As wide as the two sides on average.
    expect(found[1].x - found[0].x).toBeCloseTo((Math.hypot(80, 6) + Math.hypot(92, 10)) / 2, 6);
  });

  it('carries places there and back', () => {
    const g = geometryOf({ angle: -14, crop: { x: 5, y: 9, width: 70, height: 50 } });
    const p = fromFrame(g, toFrame(g, { x: 31, y: 17 }));
    expect([p.x, p.y]).toEqual([31, 17].map((v) => expect.closeTo(v, 9)));
    const square = squareTo([
      { x: 1, y: 2 },
      { x: 9, y: 1 },
      { x: 8, y: 7 },
      { x: 0, y: 6 }
    ]);
    expect(project(square, { x: 1, y: 1 })).toEqual({ x: expect.closeTo(8, 9), y: expect.closeTo(7, 9) });
    expect(lyingPlain(frame)).toMatchObject({ width: 120, height: 80 });
  });

  it('shows what lies beside the frame as black', () => {
    const plan = planOf(frame, [stepOf('straighten', { crop: { x: -10, y: -10, width: 20, height: 20 } })]);
    const { planes } = evaluate(plan, 0, { x: 0, y: 0, width: 20, height: 20 });
    expect(planes[0][0]).toBe(0);
    expect(planes[0][10 * 20 + 10]).toBe(red[0]);
  });
});
