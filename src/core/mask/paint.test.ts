import { describe, expect, it } from 'vitest';
import { inRoom, takePlane } from '../kernels/arena';
import { largestDifference } from '../testing';
import { paintStrokes, prepareStroke, strokeRadii, type PreparedStroke } from './paint';

const WIDTH = 90;
const HEIGHT = 60;
const whole = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
type Given = Parameters<typeof prepareStroke>[0];
const stroke = (points: [number, number, number][], more: Partial<Given> = {}): PreparedStroke =>
  prepareStroke({ points, size: 20, hardness: 0.5, flow: 1, erase: false, ...more }, null);

function painted(strokes: readonly PreparedStroke[], scale = 1, rect = whole): Float32Array {
  const out = new Float32Array(rect.width * rect.height);
  paintStrokes(strokes, rect, scale, out);
  return out;
}
const at = (plane: Float32Array, x: number, y: number): number => plane[y * WIDTH + x];

describe('a stroke', () => {
  const line = stroke([
    [20.5, 30.5, 1],
    [60.5, 30.5, 1]
  ]);

  it('is full along its core, half between core and edge, nothing beyond', () => {
    const plane = painted([line]);
    // Radius 10, core 5: at 7.5 samples the smooth fall is at its middle.
    expect(at(plane, 40, 30)).toBe(1);
    expect(at(plane, 40, 35)).toBe(1);
    expect((at(plane, 40, 37) + at(plane, 40, 38)) / 2).toBeCloseTo(0.5, 2);
    expect(at(plane, 40, 41)).toBe(0);
    expect(at(plane, 9, 30)).toBe(0);
    expect(at(plane, 16, 30)).toBe(1);
  });

  it('does not add to itself where it crosses itself, but two strokes do by their flow', () => {
    const there = stroke(
      [
        [20, 20, 1],
        [60, 20, 1],
        [20, 20.5, 1]
      ],
      { flow: 0.5 }
    );
    expect(at(painted([there]), 40, 20)).toBeCloseTo(0.5, 6);
    expect(at(painted([there, there]), 40, 20)).toBeCloseTo(0.75, 6);
  });

  it('takes away what was there where it erases', () => {
    const away = stroke([[40.5, 30.5, 1]], { erase: true, flow: 0.4 });
    expect(at(painted([line, away]), 40, 30)).toBeCloseTo(0.6, 6);
  });

  it('follows the pressure along its way', () => {
    const soft = stroke([
      [10.5, 30.5, 0],
      [80.5, 30.5, 1]
    ]);
    expect(at(painted([soft]), 45, 30)).toBeCloseTo(0.5, 6);
  });

  it('is a dot where it has one point', () => {
    expect(at(painted([stroke([[40.5, 30.5, 1]])]), 44, 30)).toBe(1);
  });

  it('has an edge of one sample at the hardest, and at every size', () => {
    expect(strokeRadii(20, 1, 1)).toEqual([9.5, 10.5]);
    expect(strokeRadii(20, 0.5, 1)).toEqual([5, 10]);
    expect(strokeRadii(2, 0.5, 1 / 8)).toEqual([0.09375 - 0.5, 0.09375 + 0.5]);
  });

  it('looks the same drawn at half the size', () => {
    const full = painted([line]);
    const half = painted([line], 0.5, { x: 0, y: 0, width: WIDTH / 2, height: HEIGHT / 2 });
    let worst = 0;
    for (let y = 0; y < HEIGHT / 2; y++) {
      for (let x = 0; x < WIDTH / 2; x++) {
        const mean =
          [0, 1].flatMap((v) => [0, 1].map((u) => at(full, 2 * x + u, 2 * y + v))).reduce((a, b) => a + b) /
          4;
        worst = Math.max(worst, Math.abs(mean - half[(y * WIDTH) / 2 + x]));
      }
    }
    expect(worst).toBeLessThan(0.06);
  });

  it('is the same by the kernel and plainly', () => {
    const strokes = [
      line,
      stroke(
        [
          [5, 5, 0.3],
          [70, 50, 1],
          [80, 10, 0.6]
        ],
        { size: 33, hardness: 0.1, flow: 0.7 }
      )
    ];
    const plain = painted(strokes);
    inRoom(
      () => {
        const fast = takePlane(WIDTH * HEIGHT);
        paintStrokes(strokes, whole, 1, fast);
        expect(largestDifference(plain, fast)).toBeLessThan(2e-6);
      },
      WIDTH * HEIGHT * 16
    );
  });

  it('keeps what was painted before the last one, and gives the same', () => {
    const numbered = [
      line,
      stroke([
        [30, 10, 1],
        [30, 50, 1]
      ])
    ].map((s, i) => ({ ...s, number: 900 + i }));
    const first = painted(numbered);
    expect(painted(numbered)).toEqual(first);
    expect(painted(numbered.slice(0, 1))).toEqual(painted([line]));
  });
});
