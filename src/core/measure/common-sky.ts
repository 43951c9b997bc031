import type { Planes } from '../colour';
import { medianOf, skyOf } from './sky';
import type { Seen } from './seen';

/** Of a box, in samples of the analysis raster. */
const SIDE = 32;
const FEWEST_BOXES = 12;
/** The part of the boxes that is darkest in all channels together, and counts as sky. */
const DARKEST = 0.1;
const FEWEST_DARK = 4;

/** A box of which more than so much is even holds what is no sky: a border, a corner, what is burnt out. */
const MOST_EVEN = 0.01;
/** Samples to the left and above that one has to be equal to for that; fewer could be so by chance in a picture of few values. */
const RUN = 3;

interface Box {
  readonly levels: number[];
  readonly sigmas: number[];
}

/** Whether a sample is in all channels what those beside it are. */
function isEven(planes: Planes, at: number, x: number, y: number, width: number): boolean {
  if (x < RUN || y < RUN) return false;
  for (let i = 1; i <= RUN; i++)
    for (const plane of planes)
      if (plane[at] !== plane[at - i] || plane[at] !== plane[at - i * width]) return false;
  return true;
}

/**
 * The level of the sky in each channel, at the same places in all: of boxes, those that are darkest in the channels together, each by its
 * own scatter, and the median of their levels. Over the whole frame a nebula that fills half of it would count as sky in one channel and
 * not in another. Boxes that reach into a border do not count. A picture of too few boxes is taken as one.
 * @param planes what the levels are taken of, over the raster that is seen
 */
export function commonSky({ width, height, present }: Seen, planes: Planes): number[] {
  const [columns, rows] = [Math.floor(width / SIDE), Math.floor(height / SIDE)];
  const boxes: Box[] = [];
  const bordered: Box[] = [];
  const held = planes.map(() => new Float32Array(SIDE * SIDE));
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      let [n, even] = [0, 0];
      for (let y = row * SIDE; y < (row + 1) * SIDE; y++)
        for (let x = column * SIDE; x < (column + 1) * SIDE; x++) {
          const at = y * width + x;
          if (present && present[at] === 0) continue;
          planes.forEach((plane, c) => (held[c][n] = plane[at]));
          n++;
          if (isEven(planes, at, x, y, width)) even++;
        }
      if (2 * n < SIDE * SIDE) continue;
      const skies = held.map((samples) => skyOf(samples, n));
      const box = { levels: skies.map((s) => s.level), sigmas: skies.map((s) => s.sigma) };
      (even > MOST_EVEN * n ? bordered : boxes).push(box);
    }
  if (boxes.length + bordered.length < FEWEST_BOXES) {
    const there = planes.map((plane) => (present ? plane.filter((_, i) => present[i] !== 0) : plane));
    return there.map((plane) => skyOf(plane).level);
  }
  // Where most of it is even, as a picture of few values can be, it is no border.
  if (boxes.length < bordered.length) boxes.push(...bordered);
  const scatter = planes.map((_, c) => medianOf(boxes.map(({ sigmas }) => sigmas[c])));
  // A channel of so few values that its sky does not scatter counts by the scatter of the others.
  const usual = Math.max(...scatter) || 1;
  const brightness = ({ levels }: Box): number =>
    levels.reduce((sum, level, c) => sum + level / (scatter[c] || usual), 0);
  const dark = boxes
    .map((box) => ({ box, is: brightness(box) }))
    .sort((a, b) => a.is - b.is)
    .slice(0, Math.max(FEWEST_DARK, Math.round(DARKEST * boxes.length)));
  return planes.map((_, c) => medianOf(dark.map(({ box }) => box.levels[c])));
}
