import { converter, differenceCiede2000 } from 'culori';
import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { mainColours, meanMove, movedBy, type ColourAt } from './main-colours';

const random = randomStream(12);
/** So many samples about a colour, each at a place of its own. */
const about = (rgb: readonly number[], n: number, x: number): ColourAt[] =>
  Array.from({ length: n }, (_, i) => ({ x: x + i, y: 7, rgb: rgb.map((v) => v + 0.02 * (random() - 0.5)) }));
const [WALL, VASE, BEAD] = [
  [0.55, 0.52, 0.5],
  [0.6, 0.2, 0.12],
  [0.1, 0.35, 0.7]
];
const samples = [...about(WALL, 300, 0), ...about(VASE, 80, 1000), ...about(BEAD, 4, 2000)];

describe('the main colours of a picture', () => {
  it('are its groups, the most frequent first, a small thing of its own colour among them', () => {
    const found = mainColours(samples, 'coded');
    expect(found).toHaveLength(3);
    expect(found.map(({ share }) => Math.round(384 * share))).toEqual([300, 80, 4]);
    [WALL, VASE, BEAD].forEach((rgb, i) =>
      found[i].rgb.forEach((v, c) => expect(Math.abs(v - rgb[c])).toBeLessThan(0.011))
    );
    // Each stands where one of its samples was taken.
    expect(found.map(({ x }) => Math.floor(x / 1000))).toEqual([0, 1, 2]);
  });

  it('are one of a picture of one colour, and none of none', () => {
    expect(mainColours(about(WALL, 50, 0), 'coded')).toHaveLength(1);
    expect(mainColours([], 'coded')).toEqual([]);
  });

  it('move by what culori tells, the furthest first', () => {
    const swap = ([r, g, b]: readonly number[]): number[] => [b, g, r];
    const moved = movedBy(mainColours(samples, 'coded'), swap, 'coded');
    const delta = differenceCiede2000();
    const toLab = converter('lab');
    for (const { rgb, after, by } of moved) {
      // The numbers of LAB under D50, which culori’s difference takes as they are where they are called so.
      const [one, other] = [rgb, after].map(
        ([r, g, b]) => ({ ...toLab({ mode: 'rgb', r, g, b }), mode: 'lab65' }) as const
      );
      expect(by).toBeCloseTo(delta(one, other), 1);
    }
    expect(moved[0].by).toBeGreaterThan(moved[1].by);
    // Three quarters of the picture hardly move.
    expect(meanMove(moved)).toBeLessThan(moved[0].by / 2);
  });
});
