import { describe, expect, it } from 'vitest';
import { deconvolve } from '../ops/deconvolve';
import { randomStream, scattered } from '../random';
import { commonSpread, SHAPE_REACH, starShape } from './star-shape';

const SIDE = 2 * SHAPE_REACH + 1;

interface Oval {
  readonly long: number;
  readonly short: number;
  /** Of the long axis from the horizontal, clockwise, in degrees. */
  readonly angle: number;
  readonly beta: number;
}

/** A star of a given width along each axis, on a sky of 0.02, by the definition of Moffat (1969) in its own axes. */
function star({ long, short, angle, beta }: Oval, height: number, noise: number, seed: number): Float32Array {
  const random = randomStream(seed);
  const [dx, dy] = [random() - 0.5, random() - 0.5];
  const turn = (angle / 180) * Math.PI;
  const alpha = (width: number): number => width / (2 * Math.sqrt(2 ** (1 / beta) - 1));
  return Float32Array.from({ length: SIDE * SIDE }, (_, i) => {
    const [x, y] = [(i % SIDE) - SHAPE_REACH - dx, Math.floor(i / SIDE) - SHAPE_REACH - dy];
    const along = (x * Math.cos(turn) + y * Math.sin(turn)) / alpha(long);
    const across = (y * Math.cos(turn) - x * Math.sin(turn)) / alpha(short);
    return 0.02 + height * (1 + along ** 2 + across ** 2) ** -beta + noise * scattered(random);
  });
}

const OVALS: readonly Oval[] = [
  { long: 3, short: 3, angle: 0, beta: 3 },
  { long: 3.6, short: 2.8, angle: 25, beta: 2.5 },
  { long: 2.4, short: 1.9, angle: -60, beta: 4 },
  { long: 5.2, short: 4.6, angle: 90, beta: 3.2 }
];

describe('the shape of stars', () => {
  it.each(OVALS)('is told by many: width within 3 %, roundness within 0.03, %j', (oval) => {
    const shapes = Array.from({ length: 25 }, (_, i) =>
      starShape(star(oval, 0.1 + 0.02 * i, 0.0006, 100 + i))
    );
    expect(shapes.every(Boolean)).toBe(true);
    const { beta } = commonSpread(shapes.map((s) => s!.spread));
    const again = shapes.map((_, i) => starShape(star(oval, 0.1 + 0.02 * i, 0.0006, 100 + i), beta)!.spread);
    const { fwhm, ratio, angle } = commonSpread(again);
    expect(Math.abs(fwhm / Math.sqrt(oval.long * oval.short) - 1)).toBeLessThan(0.03);
    expect(Math.abs(ratio - oval.short / oval.long)).toBeLessThan(0.03);
    expect(Math.abs(beta / oval.beta - 1)).toBeLessThan(0.15);
    if (oval.long > oval.short) {
      const off = ((angle - oval.angle + 270) % 180) - 90;
      expect(Math.abs(off)).toBeLessThan(4);
    }
  });

  it('is not told of what is no single star: burnt out, faint, missing, with another beside it, or even', () => {
    const [round] = OVALS;
    const burnt = star(round, 1.6, 0.0006, 1).map((v) => Math.min(1, v));
    const gap = star(round, 0.3, 0.0006, 1).with(40, Number.NaN);
    const two = star(round, 0.3, 0.0006, 1).map((v, i) => {
      const [x, y] = [(i % SIDE) - 1, Math.floor(i / SIDE) - SHAPE_REACH];
      return v + 0.2 * (1 + (x * x + y * y) / 4) ** -3;
    });
    for (const square of [
      burnt,
      star(round, 0.008, 0.0006, 1),
      gap,
      two,
      new Float32Array(SIDE * SIDE).fill(0.1)
    ])
      expect(starShape(square)).toBeNull();
  });

  it('is never wider, narrower nor more oval than a step takes', () => {
    // Trailed to three times their width; and stars that are oval to the bound in two directions, whose parts' medians cross it.
    expect(starShape(star({ long: 7.5, short: 2.5, angle: 30, beta: 3 }, 0.4, 0.0006, 4))).toBeNull();
    const oval = { kind: 'moffat', fwhm: 3, beta: 3, ratio: 0.4 } as const;
    const common = commonSpread([0, 0, 45, 45].map((angle) => ({ ...oval, angle })));
    expect(deconvolve.params.safeParse({ psf: common }).error).toBeUndefined();
  });
});
