import type { Planes } from '../colour';

/** Values of red, green and blue, interleaved, over even steps from `low` to `high` of what goes in. */
export interface Curves {
  readonly size: number;
  readonly low: readonly number[];
  readonly high: readonly number[];
  readonly values: Float32Array;
}

/** The same over a cube of `size`³ nodes; red runs fastest, then green. */
export type Cube = Curves;

/** A colour look-up table: curves that each channel goes through first, a cube, or both. */
export interface Table {
  readonly title: string;
  readonly curves: Curves | null;
  readonly cube: Cube | null;
}

export type Interpolation = 'tetrahedral' | 'trilinear';

/** Where values stand among the nodes of one axis, 0…size − 1; beyond the domain, at its edge. Missing ones stay missing. */
function nodePlaces(
  { size, low, high }: Curves,
  channel: number,
  plane: Float32Array,
  n: number
): Float64Array {
  const places = new Float64Array(n);
  const last = size - 1;
  const scale = last / (high[channel] - low[channel]);
  for (let i = 0; i < n; i++) {
    const at = (plane[i] - low[channel]) * scale;
    places[i] = at < 0 ? 0 : at > last ? last : at;
  }
  return places;
}

/** Puts the first `n` samples of RGB through a table, into `out`, which may be the same planes. */
export function throughTable(table: Table, rgb: Planes, out: Planes, n: number, by: Interpolation): void {
  const { curves, cube } = table;
  if (curves) throughCurves(curves, rgb, out, n);
  const from = curves ? out : rgb;
  if (!cube) return;
  const places = [0, 1, 2].map((c) => nodePlaces(cube, c, from[c], n));
  if (by === 'tetrahedral') tetrahedral(cube, places, out, n);
  else trilinear(cube, places, out, n);
}

function throughCurves(curves: Curves, rgb: Planes, out: Planes, n: number): void {
  const { size, values } = curves;
  for (let c = 0; c < 3; c++) {
    const places = nodePlaces(curves, c, rgb[c], n);
    const plane = out[c];
    for (let i = 0; i < n; i++) {
      const at = Math.min(size - 2, Math.floor(places[i])) || 0;
      const low = values[3 * at + c];
      plane[i] = low + (places[i] - at) * (values[3 * at + 3 + c] - low);
    }
  }
}

/** The node below a place, so that there is one above it; 0 for a place that is missing. */
const below = (place: number, size: number): number =>
  place < size - 1 ? place | 0 : place === place ? size - 2 : 0;

/**
 * Tetrahedral interpolation (Kasson, Nin, Plouffe & Hafner 1995): the cell is cut into six tetrahedra along its grey
 * diagonal, and what lies in one is made of its four corners.
 */
function tetrahedral(
  { size, values }: Cube,
  [red, green, blue]: readonly Float64Array[],
  out: Planes,
  n: number
): void {
  const [toR, toG, toB] = [3, 3 * size, 3 * size * size];
  const [or, og, ob] = out;
  for (let i = 0; i < n; i++) {
    const r0 = below(red[i], size);
    const g0 = below(green[i], size);
    const b0 = below(blue[i], size);
    const r = red[i] - r0;
    const g = green[i] - g0;
    const b = blue[i] - b0;
    const first = r0 * toR + g0 * toG + b0 * toB;
    const last = first + toR + toG + toB;
    // The corners between, in the order of the parts: the largest first.
    let one = toB;
    let rest = toR;
    let most = b;
    let middle = g;
    let least = r;
    if (r >= g && r >= b) {
      one = toR;
      most = r;
      rest = g >= b ? toB : toG;
      middle = g >= b ? g : b;
      least = g >= b ? b : g;
    } else if (g >= b) {
      one = toG;
      most = g;
      rest = r >= b ? toB : toR;
      middle = r >= b ? r : b;
      least = r >= b ? b : r;
    } else if (r >= g) {
      rest = toG;
      middle = r;
      least = g;
    }
    const second = first + one;
    const third = last - rest;
    // A sample of which one channel is missing is missing.
    const w0 = 1 - most + 0 * (r + g + b);
    const w1 = most - middle;
    const w2 = middle - least;
    or[i] = w0 * values[first] + w1 * values[second] + w2 * values[third] + least * values[last];
    og[i] =
      w0 * values[first + 1] + w1 * values[second + 1] + w2 * values[third + 1] + least * values[last + 1];
    ob[i] =
      w0 * values[first + 2] + w1 * values[second + 2] + w2 * values[third + 2] + least * values[last + 2];
  }
}

/** Straight between the eight corners of a cell, along one axis after another. */
function trilinear(
  { size, values }: Cube,
  [red, green, blue]: readonly Float64Array[],
  out: Planes,
  n: number
): void {
  const [toR, toG, toB] = [3, 3 * size, 3 * size * size];
  for (let i = 0; i < n; i++) {
    const r0 = below(red[i], size);
    const g0 = below(green[i], size);
    const b0 = below(blue[i], size);
    const r = red[i] - r0;
    const g = green[i] - g0;
    const b = blue[i] - b0;
    const first = r0 * toR + g0 * toG + b0 * toB;
    for (let c = 0; c < 3; c++) {
      const at = first + c;
      const v00 = values[at] + r * (values[at + toR] - values[at]);
      const v10 = values[at + toG] + r * (values[at + toG + toR] - values[at + toG]);
      const v01 = values[at + toB] + r * (values[at + toB + toR] - values[at + toB]);
      const v11 = values[at + toB + toG] + r * (values[at + toB + toG + toR] - values[at + toB + toG]);
      const front = v00 + g * (v10 - v00);
      const back = v01 + g * (v11 - v01);
      out[c][i] = front + b * (back - front);
    }
  }
}
