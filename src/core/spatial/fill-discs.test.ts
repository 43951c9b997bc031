import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { wholeField, type Field } from './field';
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
  const out = plane.slice();
  fillDiscs([plane], field, near, outsideOf(near, field), (_, i, value) => (out[i] = value));
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
    const out = plane.slice();
    fillDiscs([plane], field, [disc], known, (_, i, value) => (out[i] = value));
    // A plane is the most even surface over its own rim; the rim stands for what lies a little outside it.
    for (let i = 0; i < plane.length; i++)
      if (known[i] === 0)
        expect(Math.abs(out[i] - slope((i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5))).toBeLessThan(0.012);
  });

  it('are the same in several planes at once, and where only a part is needed', () => {
    const random = randomStream(5);
    const planes = [0, 1, 2].map((c) =>
      Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => 0.1 * c + (i % WIDTH) / 500 + 0.05 * random())
    );
    const discs = [
      { x: 40.5, y: 50, radius: 9 },
      { x: 52, y: 55.25, radius: 7 },
      { x: 110, y: 100, radius: 5 }
    ];
    const whole = wholeField({ x: 0, y: 0, width: WIDTH, height: HEIGHT });
    const known = outsideOf(discs, whole);
    const fill = (of: readonly Float32Array[], field: Field): Map<string, number> => {
      const found = new Map<string, number>();
      fillDiscs(of, field, discs, known, (p, i, value) => found.set(`${p} ${i}`, value));
      return found;
    };
    const all = fill(planes, whole);
    const covered = known.filter((v) => v === 0).length;
    expect(all.size).toBe(3 * covered);
    planes.forEach((plane, p) => {
      const alone = fill([plane], whole);
      expect(alone.size).toBe(covered);
      for (const [key, value] of alone) expect(all.get(key.replace('0', String(p)))).toBe(value);
    });
    // A part whose border goes through two of the discs.
    const needed = { x: 30, y: 45, width: 25, height: 12 };
    const part = fill(planes, { ...whole, needed });
    const inside = (i: number): boolean =>
      i % WIDTH >= 30 && i % WIDTH < 55 && Math.floor(i / WIDTH) >= 45 && Math.floor(i / WIDTH) < 57;
    expect(part.size).toBe(3 * known.filter((v, i) => v === 0 && inside(i)).length);
    for (const [key, value] of part) expect(all.get(key)).toBe(value);
  });
});
