import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { wholeField } from './field';
import { fillDiscs, fillReach, outsideOf, type Disc } from './fill-discs';

const [WIDTH, HEIGHT] = [150, 130];

/** A slope with grain, its discs filled. */
function filled(discs: readonly Disc[], x: number, y: number, width: number, height: number): Float32Array {
  const field = wholeField({ x, y, width, height });
  const random = randomStream(3);
  const whole = Float32Array.from(
    { length: WIDTH * HEIGHT },
    (_, i) => 0.2 + (i % WIDTH) / 400 + 0.05 * random()
  );
  const plane = new Float32Array(width * height);
  for (let j = 0; j < height; j++)
    plane.set(whole.subarray((y + j) * WIDTH + x, (y + j) * WIDTH + x + width), j * width);
  const near = discs.map((disc) => ({ ...disc, x: disc.x - x, y: disc.y - y }));
  const out = new Float32Array(width * height);
  fillDiscs(plane, out, field, near, outsideOf(near, field));
  return out;
}

describe('discs filled from what lies about them', () => {
  it('are the very same in every part of a picture, by places in 64ths', () => {
    const radius = 6;
    const reach = fillReach(radius);
    // Samples on the diagonals, on the axes, and in the directions of three to four.
    const at = [
      [70, 60],
      [70.5, 60.5],
      [70 + 49 / 64, 60 + 49 / 64],
      [70 + 5 / 64, 60 + 33 / 64]
    ];
    for (const [x, y] of at) {
      const discs = [
        { x, y, radius },
        { x: x + 7, y: y - 3, radius: 4 }
      ];
      const whole = filled(discs, 0, 0, WIDTH, HEIGHT);
      for (const [left, top] of [
        [13, 7],
        [31, 22]
      ]) {
        const [width, height] = [WIDTH - left - 3, HEIGHT - top - 5];
        expect(left + reach).toBeLessThan(x - radius);
        const part = filled(discs, left, top, width, height);
        const differing = part.filter(
          (v, i) => v !== whole[(Math.floor(i / width) + top) * WIDTH + (i % width) + left]
        );
        expect(differing).toHaveLength(0);
      }
    }
  });

  it('go on with a slope that lies about them', () => {
    const slope = (x: number, y: number): number => 0.3 + 0.002 * x - 0.001 * y;
    const field = wholeField({ x: 0, y: 0, width: WIDTH, height: HEIGHT });
    const plane = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) =>
      slope((i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5)
    );
    const disc = { x: 75.25, y: 64.5, radius: 12 };
    const known = outsideOf([disc], field);
    for (let i = 0; i < plane.length; i++) if (known[i] === 0) plane[i] = 1;
    const out = new Float32Array(plane.length);
    fillDiscs(plane, out, field, [disc], known);
    // A plane is the most even surface over its own rim; the rim stands for what lies a little outside it.
    for (let i = 0; i < plane.length; i++)
      if (known[i] === 0)
        expect(Math.abs(out[i] - slope((i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5))).toBeLessThan(0.012);
  });
});
