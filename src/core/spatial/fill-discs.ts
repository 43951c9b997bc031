/** Discs of a plane filled from what lies about them. */
import { MAD_TO_SIGMA, medianOf } from '../measure/sky';
import type { Rect } from '../raster/raster';
import type { Field } from './field';

/** In samples of the plane, the middle of the first at 0.5. A place that is a whole number of 64ths gives the same from wherever it is counted. */
export interface Disc {
  readonly x: number;
  readonly y: number;
  readonly radius: number;
}

/** Sectors of the rim by which a disc is filled, at least and at most, and how wide the rim is at least, and as a part of the radius. */
const [FEWEST, MOST, RIM, OF_RADIUS] = [8, 32, 3, 0.35];
/** Sectors begin so far from east (radians), where no sample lies on a border: a last bit would tell which it belongs to. */
const TURNED = 0.1;
/** A rim without a sample that is known is looked for so many times further out. */
const OUTWARDS = 4;
/** Half the side of the square about a sample whose mean its grain is told from. */
const GRAIN = 2;
/** Grain of more than so many σ is none. */
const COARSEST = 3;

/** How many samples around one of a disc of a radius its filling depends on. */
export const fillReach = (radius: number): number =>
  Math.ceil(2 * radius + (OUTWARDS + 1) * Math.max(RIM, OF_RADIUS * radius) + GRAIN + 1);

/** Marks what lies in discs: 1 where a sample lies in none and is there. */
export function outsideOf(discs: readonly Disc[], field: Field): Uint8Array {
  const { width, height, present } = field;
  const known = new Uint8Array(width * height).fill(1);
  if (present) for (let i = 0; i < known.length; i++) known[i] = present[i] > 0 ? 1 : 0;
  for (const disc of discs) overDisc(disc, width, allOf(field), (i) => (known[i] = 0));
  return known;
}

const allOf = ({ width, height }: Field): Rect => ({ x: 0, y: 0, width, height });

/** Every sample of a part of a plane that is `width` wide whose middle lies in a disc, with where that is. */
function overDisc(
  { x, y, radius }: Disc,
  width: number,
  part: Rect,
  use: (i: number, dx: number, dy: number) => void
): void {
  const [left, right] = [
    Math.max(part.x, Math.floor(x - radius)),
    Math.min(part.x + part.width - 1, Math.ceil(x + radius))
  ];
  const [top, bottom] = [
    Math.max(part.y, Math.floor(y - radius)),
    Math.min(part.y + part.height - 1, Math.ceil(y + radius))
  ];
  for (let j = top; j <= bottom; j++) {
    const dy = j + 0.5 - y;
    for (let i = left; i <= right; i++) {
      const dx = i + 0.5 - x;
      if (dx * dx + dy * dy <= radius * radius) use(j * width + i, dx, dy);
    }
  }
}

/** The places of the known samples of the rim by sectors, clockwise; null where none is known anywhere about the disc. */
function rimOf(known: Uint8Array, field: Field, disc: Disc): readonly number[][] | null {
  const count = Math.min(MOST, Math.max(FEWEST, Math.round(1.2 * disc.radius)));
  const wide = Math.max(RIM, OF_RADIUS * disc.radius);
  const sectors = Array.from({ length: count }, (): number[] => []);
  for (let round = 0; round < OUTWARDS; round++) {
    const [inner, outer] = [disc.radius + round * wide, disc.radius + (round + 1) * wide];
    const empty = sectors.map((samples) => samples.length === 0);
    overDisc({ ...disc, radius: outer }, field.width, allOf(field), (i, dx, dy) => {
      if (known[i] === 0 || dx * dx + dy * dy <= inner * inner) return;
      const sector = Math.floor((((Math.atan2(dy, dx) - TURNED) / (2 * Math.PI) + 1) % 1) * count) % count;
      if (empty[sector]) sectors[sector].push(i);
    });
    // Some that are not known are told by those beside them.
    if (sectors.filter(({ length }) => length > 0).length >= count / 2) break;
  }
  return sectors.every(({ length }) => length === 0) ? null : sectors;
}

function samplesAt(plane: Float32Array, places: readonly number[]): Float32Array {
  const samples = new Float32Array(places.length);
  for (let i = 0; i < places.length; i++) samples[i] = plane[places[i]];
  return samples;
}

/** Medians of a plane's samples by the sectors of a rim, and σ about them. */
function rimValues(
  plane: Float32Array,
  sectors: readonly number[][]
): { readonly values: Float64Array; readonly scatter: number } {
  const count = sectors.length;
  const samples = sectors.map((places) => samplesAt(plane, places));
  const medians = samples.map(medianOf);
  const isKnown = (k: number): boolean => sectors[(k + count) % count].length > 0;
  const off = new Float32Array(samples.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  samples.forEach((some, k) => {
    for (let i = 0; i < some.length; i++) off[at++] = Math.abs(some[i] - medians[k]);
  });
  const values = Float64Array.from(medians, (median, k) => {
    if (isKnown(k)) return median;
    let [before, after] = [1, 1];
    while (!isKnown(k - before)) before++;
    while (!isKnown(k + after)) after++;
    const [a, b] = [medians[(k - before + count) % count], medians[(k + after) % count]];
    return (after * a + before * b) / (before + after);
  });
  return { values, scatter: MAD_TO_SIGMA * medianOf(off) };
}

/** Writes what a known sample of each plane lies over the mean about it into `grain`. Says whether it is known. */
function grainAt(
  planes: readonly Float32Array[],
  known: Uint8Array,
  { width, height }: Field,
  x: number,
  y: number,
  grain: Float64Array
): boolean {
  if (x < 0 || y < 0 || x >= width || y >= height || known[y * width + x] === 0) return false;
  const [left, right] = [Math.max(0, x - GRAIN), Math.min(width - 1, x + GRAIN)];
  const [top, bottom] = [Math.max(0, y - GRAIN), Math.min(height - 1, y + GRAIN)];
  let count = 0;
  for (let j = top; j <= bottom; j++) for (let i = left; i <= right; i++) count += known[j * width + i];
  for (let p = 0; p < planes.length; p++) {
    const plane = planes[p];
    let sum = 0;
    for (let j = top; j <= bottom; j++)
      for (let i = left, at = j * width + left; i <= right; i++, at++) if (known[at] > 0) sum += plane[at];
    grain[p] = count > 1 ? plane[y * width + x] - sum / count : 0;
  }
  return true;
}

/** So many discs are filled before it is asked whether to go on. */
const AT_ONCE = 200;

const touches = ({ x, y, radius }: Disc, part: Rect): boolean =>
  x + radius > part.x - 1 &&
  y + radius > part.y - 1 &&
  x - radius < part.x + part.width + 1 &&
  y - radius < part.y + part.height + 1;

/**
 * Fills the discs of planes, in what is needed of the field: each by the surface that is as even as can be between the means of its rim
 * (Poisson's integral), with the grain that lies as far outside the rim as a sample lies inside. Where discs lie over each other, each
 * counts the more the nearer its middle is. Only what lies in no disc is read, so that their order is one.
 * @param planes of the field's size
 * @param known 0 where a sample lies in a disc or is missing, else 1
 * @param put called with the plane's and the sample's number, and what stands there now
 */
export function fillDiscs(
  planes: readonly Float32Array[],
  field: Field,
  discs: readonly Disc[],
  known: Uint8Array,
  put: (plane: number, i: number, value: number) => void,
  goOn: () => void = () => undefined
): void {
  const { width, needed } = field;
  const n = needed.width * needed.height;
  const sums = planes.map(() => new Float32Array(n));
  const weights = new Float32Array(n);
  const grain = new Float64Array(planes.length);
  const shares = new Float64Array(MOST);
  const near = discs.filter((disc) => touches(disc, needed));
  near.forEach((disc, number) => {
    if (number % AT_ONCE === 0) goOn();
    const rim = rimOf(known, field, disc);
    if (!rim) return;
    const { radius } = disc;
    const told = planes.map((plane) => rimValues(plane, rim));
    const count = rim.length;
    const [cos, sin] = [Math.cos, Math.sin].map((part) =>
      Float64Array.from(rim, (_, k) => part(TURNED + ((k + 0.5) / count) * 2 * Math.PI))
    );
    overDisc(disc, width, needed, (i, dx, dy) => {
      const away = Math.sqrt(dx * dx + dy * dy);
      const ex = away === 0 ? 1 : dx / away;
      const ey = away === 0 ? 0 : dy / away;
      const inside = Math.min(0.98, away / radius);
      const [x, y] = [ex * inside, ey * inside];
      let total = 0;
      for (let k = 0; k < count; k++) {
        const [across, down] = [cos[k] - x, sin[k] - y];
        const share = 1 / (across * across + down * down);
        shares[k] = share;
        total += share;
      }
      // As in a mirror that is bent along the rim, and if nothing is known there, as on the other side.
      const out = 2 * radius + 1 - away;
      const column = i % width;
      const row = (i - column) / width;
      const [right, down] = [ex * out, ey * out];
      const found =
        grainAt(
          planes,
          known,
          field,
          column + Math.floor(right - dx + 0.5),
          row + Math.floor(down - dy + 0.5),
          grain
        ) ||
        grainAt(
          planes,
          known,
          field,
          column + Math.floor(-right - dx + 0.5),
          row + Math.floor(-down - dy + 0.5),
          grain
        );
      if (!found) grain.fill(0);
      const much = 1.02 - inside * inside;
      const at = (row - needed.y) * needed.width + column - needed.x;
      weights[at] += much;
      for (let p = 0; p < told.length; p++) {
        const { values, scatter } = told[p];
        let sum = 0;
        for (let k = 0; k < count; k++) sum += shares[k] * values[k];
        // A hot sample, or what lies beside one, is no grain.
        const own = Math.abs(grain[p]) <= COARSEST * scatter ? grain[p] : 0;
        sums[p][at] += much * (sum / total + own);
      }
    });
  });
  for (let y = 0, at = 0; y < needed.height; y++) {
    for (let x = 0, i = (needed.y + y) * width + needed.x; x < needed.width; x++, i++, at++) {
      if (weights[at] === 0) continue;
      for (let p = 0; p < planes.length; p++) put(p, i, Math.fround(sums[p][at] / weights[at]));
    }
  }
}
