import type { Planes } from '../colour';
import { skyOf } from './sky';
import type { Seen } from './seen';

/** Of a box, in samples of the analysis raster. */
const SIDE = 32;
const FEWEST_BOXES = 12;
/** The part of the boxes that is darkest in all channels together, and counts as sky. */
const DARKEST = 0.1;
const FEWEST_DARK = 4;

const median = (values: readonly number[]): number => {
  const sorted = [...values].sort((a, b) => a - b);
  const half = (sorted.length - 1) / 2;
  return (sorted[Math.floor(half)] + sorted[Math.ceil(half)]) / 2;
};

/**
 * The level of the sky in each channel, at the same places in all: of boxes, those that are darkest in the channels together, each by its
 * own scatter, and the median of their levels. Over the whole frame a nebula that fills half of it would count as sky in one channel and
 * not in another. A picture of too few boxes is taken as one.
 * @param planes what the levels are taken of, over the raster that is seen
 */
export function commonSky({ width, height, present }: Seen, planes: Planes): number[] {
  const [columns, rows] = [Math.floor(width / SIDE), Math.floor(height / SIDE)];
  const boxes: { levels: number[]; sigmas: number[] }[] = [];
  const held = planes.map(() => new Float32Array(SIDE * SIDE));
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      let n = 0;
      for (let y = row * SIDE; y < (row + 1) * SIDE; y++)
        for (let x = column * SIDE; x < (column + 1) * SIDE; x++) {
          const at = y * width + x;
          if (present && present[at] === 0) continue;
          planes.forEach((plane, c) => (held[c][n] = plane[at]));
          n++;
        }
      if (2 * n < SIDE * SIDE) continue;
      const skies = held.map((samples) => skyOf(samples, n));
      boxes.push({ levels: skies.map((s) => s.level), sigmas: skies.map((s) => s.sigma) });
    }
  if (boxes.length < FEWEST_BOXES) {
    const there = planes.map((plane) => (present ? plane.filter((_, i) => present[i] !== 0) : plane));
    return there.map((plane) => skyOf(plane).level);
  }
  const scatter = planes.map((_, c) => median(boxes.map(({ sigmas }) => sigmas[c])));
  const brightness = ({ levels }: (typeof boxes)[number]): number =>
    levels.reduce((sum, level, c) => sum + (scatter[c] > 0 ? level / scatter[c] : 0), 0);
  const dark = boxes
    .map((box) => ({ box, is: brightness(box) }))
    .sort((a, b) => a.is - b.is)
    .slice(0, Math.max(FEWEST_DARK, Math.round(DARKEST * boxes.length)));
  return planes.map((_, c) => median(dark.map(({ box }) => box.levels[c])));
}
