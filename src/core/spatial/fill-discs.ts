/** Discs of a plane filled from what lies about them. */
import { MAD_TO_SIGMA, medianOf } from '../measure/sky';
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
export function outsideOf(discs: readonly Disc[], { width, height, present }: Field): Uint8Array {
  const known = new Uint8Array(width * height).fill(1);
  if (present) for (let i = 0; i < known.length; i++) known[i] = present[i] > 0 ? 1 : 0;
  for (const disc of discs) overDisc(disc, width, height, (i) => (known[i] = 0));
  return known;
}

/** Every sample whose middle lies in a disc, with where that is. */
function overDisc(
  { x, y, radius }: Disc,
  width: number,
  height: number,
  use: (i: number, dx: number, dy: number) => void
): void {
  const [left, right] = [Math.max(0, Math.floor(x - radius)), Math.min(width - 1, Math.ceil(x + radius))];
  const [top, bottom] = [Math.max(0, Math.floor(y - radius)), Math.min(height - 1, Math.ceil(y + radius))];
  for (let j = top; j <= bottom; j++) {
    const dy = j + 0.5 - y;
    for (let i = left; i <= right; i++) {
      const dx = i + 0.5 - x;
      if (dx * dx + dy * dy <= radius * radius) use(j * width + i, dx, dy);
    }
  }
}

/** Medians of the known samples of the rim by sectors, clockwise; null where none is known anywhere about the disc. */
function rimOf(
  plane: Float32Array,
  known: Uint8Array,
  { width, height }: Field,
  disc: Disc
): { readonly values: readonly number[]; readonly scatter: number } | null {
  const count = Math.min(MOST, Math.max(FEWEST, Math.round(1.2 * disc.radius)));
  const wide = Math.max(RIM, OF_RADIUS * disc.radius);
  const sectors = Array.from({ length: count }, (): number[] => []);
  for (let round = 0; round < OUTWARDS; round++) {
    const [inner, outer] = [disc.radius + round * wide, disc.radius + (round + 1) * wide];
    const empty = sectors.map((samples) => samples.length === 0);
    overDisc({ ...disc, radius: outer }, width, height, (i, dx, dy) => {
      if (known[i] === 0 || dx * dx + dy * dy <= inner * inner) return;
      const sector = Math.floor((((Math.atan2(dy, dx) - TURNED) / (2 * Math.PI) + 1) % 1) * count) % count;
      if (empty[sector]) sectors[sector].push(plane[i]);
    });
    // Some that are not known are told by those beside them.
    if (sectors.filter(({ length }) => length > 0).length >= count / 2) break;
  }
  if (sectors.every(({ length }) => length === 0)) return null;
  const medians = sectors.map(medianOf);
  const isKnown = (k: number): boolean => sectors[(k + count) % count].length > 0;
  const off = sectors.flatMap((samples, k) => samples.map((v) => Math.abs(v - medians[k])));
  const values = medians.map((median, k) => {
    if (isKnown(k)) return median;
    let [before, after] = [1, 1];
    while (!isKnown(k - before)) before++;
    while (!isKnown(k + after)) after++;
    const [a, b] = [medians[(k - before + count) % count], medians[(k + after) % count]];
    return (after * a + before * b) / (before + after);
  });
  return { values, scatter: MAD_TO_SIGMA * medianOf(off) };
}

/** What a known sample lies over the mean about it; null where it is not known. */
function grainAt(
  plane: Float32Array,
  known: Uint8Array,
  { width, height }: Field,
  x: number,
  y: number
): number | null {
  if (x < 0 || y < 0 || x >= width || y >= height || known[y * width + x] === 0) return null;
  let [sum, count] = [0, 0];
  for (let j = Math.max(0, y - GRAIN); j <= Math.min(height - 1, y + GRAIN); j++)
    for (let i = Math.max(0, x - GRAIN); i <= Math.min(width - 1, x + GRAIN); i++) {
      if (known[j * width + i] === 0) continue;
      sum += plane[j * width + i];
      count++;
    }
  return count > 1 ? plane[y * width + x] - sum / count : 0;
}

/**
 * Writes a plane with its discs filled into `out`: each by the surface that is as even as can be between the means of its rim (Poisson's
 * integral), with the grain that lies as far outside the rim as a sample lies inside. Where discs lie over each other, each counts the more
 * the nearer its middle is. Only what lies in no disc is read, so that their order is one.
 */
export function fillDiscs(
  plane: Float32Array,
  out: Float32Array,
  field: Field,
  discs: readonly Disc[],
  known: Uint8Array
): void {
  const { width, height } = field;
  const n = width * height;
  out.set(plane.subarray(0, n));
  const [sums, weights] = [new Float32Array(n), new Float32Array(n)];
  for (const disc of discs) {
    const rim = rimOf(plane, known, field, disc);
    if (!rim) continue;
    const { radius } = disc;
    const { values, scatter } = rim;
    const count = values.length;
    const [cos, sin] = [0, 1].map((part) =>
      Float64Array.from(values, (_, k) => {
        const angle = TURNED + ((k + 0.5) / count) * 2 * Math.PI;
        return part === 0 ? Math.cos(angle) : Math.sin(angle);
      })
    );
    overDisc(disc, width, height, (i, dx, dy) => {
      const away = Math.sqrt(dx * dx + dy * dy);
      const [ex, ey] = away === 0 ? [1, 0] : [dx / away, dy / away];
      const inside = Math.min(0.98, away / radius);
      let [sum, total] = [0, 0];
      for (let k = 0; k < count; k++) {
        const weight = 1 / ((cos[k] - ex * inside) ** 2 + (sin[k] - ey * inside) ** 2);
        sum += weight * values[k];
        total += weight;
      }
      // As in a mirror that is bent along the rim, and if nothing is known there, as on the other side.
      const out = 2 * radius + 1 - away;
      const grainOn = (side: 1 | -1): number | null => {
        const [right, down] = [side * ex * out - dx, side * ey * out - dy].map((v) => Math.floor(v + 0.5));
        return grainAt(plane, known, field, (i % width) + right, Math.floor(i / width) + down);
      };
      const grain = grainOn(1) ?? grainOn(-1) ?? 0;
      // A hot sample, or what lies beside one, is no grain.
      const own = Math.abs(grain) <= COARSEST * scatter ? grain : 0;
      const near = 1.02 - inside * inside;
      sums[i] += near * (sum / total + own);
      weights[i] += near;
    });
  }
  for (let i = 0; i < n; i++) if (weights[i] > 0) out[i] = sums[i] / weights[i];
}
