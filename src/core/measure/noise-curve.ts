/** How strong the noise of a plane is where it is dark and where it is bright: light comes in counts, and a stretch changes what they scatter by. */
import type { Rect } from '../raster/raster';
import { inRoom } from '../kernels/arena';
import { layerResponse, layersReach, layersRoom, throughLayers } from '../spatial/a-trous';
import { wholeField } from '../spatial/field';
import { finestLayer, noiseBands, RESPONSE, type Size } from './noise';

/** σ by the value of the plane, straight between its nodes, and held beyond the first and the last. */
export interface NoiseCurve {
  readonly from: number;
  readonly to: number;
  /** At even steps from the one to the other. */
  readonly sigmas: readonly number[];
}

/** Side of the squares that are told apart, and how many of them make one place of the curve at least, and how many places there are. */
const [SIDE, FEWEST, MOST_PLACES, NODES] = [8, 64, 16, 17];
/**
 * Of the squares that are as bright, the scatter is read off so far from the quietest: what holds structure lies above. There it is so much
 * of the layer's σ where there is none, from the finest layer on (worked out from ten million samples of white noise).
 */
const QUIET = 0.05;
const QUIET_PARTS = [0.8451, 0.8465, 0.7052, 0.5139];

/** A small part of a plane: its mean, and how its layer scatters about 0. */
export interface Square {
  readonly value: number;
  readonly scatter: number;
}

/** The squares of a part that miss no sample. @param edge so many samples of the layer at the border of the part say nothing */
function squaresOf(
  plane: Float32Array,
  width: number,
  height: number,
  layer = finestLayer(plane, width, height),
  side = SIDE,
  edge = 2
): Square[] {
  const found: Square[] = [];
  for (let y = edge; y + side <= height - edge; y += side) {
    for (let x = edge; x + side <= width - edge; x += side) {
      let [sum, squares] = [0, 0];
      for (let j = 0; j < side; j++) {
        const from = (y + j) * width + x;
        for (let i = from; i < from + side; i++) {
          sum += plane[i];
          squares += layer[i] * layer[i];
        }
      }
      const count = side * side;
      if (squares === squares) found.push({ value: sum / count, scatter: Math.sqrt(squares / count) });
    }
  }
  return found;
}

const NONE: NoiseCurve = { from: 0, to: 1, sigmas: [0, 0] };

/** Squares in the order of their values, cut into parts in which they are about as bright. */
function* alike(sorted: readonly Square[]): Generator<readonly Square[]> {
  const count = Math.max(1, Math.min(MOST_PLACES, Math.floor(sorted.length / FEWEST)));
  for (let k = 0; k < count; k++)
    yield sorted.slice(
      Math.floor((k * sorted.length) / count),
      Math.floor(((k + 1) * sorted.length) / count)
    );
}
export const inOrderOfValue = (squares: readonly Square[]): Square[] =>
  [...squares].sort((a, b) => a.value - b.value);

/** σ of white noise by which so bright squares of a layer scatter, from the darkest on. @param sorted at least one, in the order of their values */
export const placesOf = (
  sorted: readonly Square[],
  layer = 0
): readonly { readonly value: number; readonly sigma: number }[] =>
  [...alike(sorted)].map((part) => {
    const scatters = Float64Array.from(part, ({ scatter }) => scatter).sort();
    const quiet = scatters[Math.floor(QUIET * (scatters.length - 1))];
    return {
      value: part[part.length >> 1].value,
      sigma: quiet / (QUIET_PARTS[layer] * (layer === 0 ? RESPONSE : layerResponse(layer)))
    };
  });

/** σ by the value, of the squares of one layer. */
export function curveOf(squares: readonly Square[], layer = 0): NoiseCurve {
  if (squares.length === 0) return NONE;
  const places = placesOf(inOrderOfValue(squares), layer);
  const count = places.length;
  const [from, to] = [places[0].value, places[count - 1].value];
  if (!(to > from)) {
    const sigma = places[count >> 1].sigma;
    return { from, to: from + 1, sigmas: [sigma, sigma] };
  }
  const sigmas = Array.from({ length: NODES }, (_, i) => {
    const value = from + ((to - from) * i) / (NODES - 1);
    // The last may come out a bit above what it is reckoned from.
    const found = places.findIndex((place) => place.value >= value);
    const above = found < 0 ? count - 1 : Math.max(1, found);
    const [a, b] = [places[above - 1], places[above]];
    const along = b.value > a.value ? Math.min(1, Math.max(0, (value - a.value) / (b.value - a.value))) : 1;
    return a.sigma + along * (b.sigma - a.sigma);
  });
  return { from, to, sigmas };
}

/**
 * The noise of planes of any size that are read part by part, by their own value. Yields how much of it is done. Squares with missing
 * samples take no part; 0 where there is no square.
 */
export function* noiseCurves(
  size: Size,
  read: (rect: Rect) => readonly Float32Array[]
): Generator<number, NoiseCurve[], void> {
  const bands = noiseBands(size);
  const squares: Square[][] = [];
  for (const [k, rect] of bands.entries()) {
    read(rect).forEach((plane, c) => {
      squares[c] = [...(squares[c] ?? []), ...squaresOf(plane, rect.width, rect.height)];
    });
    yield (k + 1) / bands.length;
  }
  return squares.map((one) => curveOf(one ?? []));
}

/** Side of the squares in which coarser layers are told. */
const WIDE = 16;
/** Rows of the parts in which they are: enough that the coarsest has some that depend on nothing beyond. */
const TALL = 128;

/** Side of the boxes in which stars are cut off, and how many σ of a box stay of them. */
const [BOX, STAYS] = [32, 4];
/** So many σ lies a quarter of normal noise below its middle. */
const QUARTILE = 0.6745;

/**
 * Middle of sorted values and their σ by the lower half alone: the upper one holds the stars. Values that come in steps are spread
 * evenly over theirs; σ is 0 where all are one.
 */
function lowerHalf(sorted: Float32Array): { middle: number; sigma: number } {
  const among = (rank: number): { value: number; first: number; end: number } => {
    let [first, end] = [rank, rank + 1];
    while (first > 0 && sorted[first - 1] === sorted[rank]) first--;
    while (end < sorted.length && sorted[end] === sorted[rank]) end++;
    return { value: sorted[rank], first, end };
  };
  const at = among(sorted.length >> 1);
  const [below, above] = [sorted[at.first - 1] ?? at.value, sorted[at.end] ?? at.value];
  const step = (above - below) / (at.first > 0 && at.end < sorted.length ? 2 : 1);
  const spread = (rank: number): number => {
    const { value, first, end } = among(rank);
    return value + step * ((rank + 0.5 - first) / (end - first) - 0.5);
  };
  const middle = spread(sorted.length >> 1);
  return { middle, sigma: (middle - spread(sorted.length >> 2)) / QUARTILE };
}

/** What rises far over its surround is cut off, so that the light of stars is not told for noise of coarse layers; in place. */
function cutPeaks(plane: Float32Array, width: number, height: number): void {
  for (let top = 0; top < height; top += BOX)
    for (let left = 0; left < width; left += BOX) {
      const [right, bottom] = [Math.min(width, left + BOX), Math.min(height, top + BOX)];
      const values = new Float32Array((right - left) * (bottom - top));
      let n = 0;
      for (let y = top; y < bottom; y++)
        for (let i = y * width + left; i < y * width + right; i++)
          if (plane[i] === plane[i]) values[n++] = plane[i];
      const sorted = values.subarray(0, n).sort();
      if (n === 0) continue;
      const { middle, sigma } = lowerHalf(sorted);
      const most = middle + STAYS * sigma;
      for (let y = top; y < bottom; y++)
        for (let i = y * width + left; i < y * width + right; i++) if (plane[i] > most) plane[i] = most;
    }
}

/** The bands in which layers are looked at. */
export const bandsOfLayers = (size: Size): Rect[] => noiseBands(size, TALL);

/** The squares of such a band, in each of so many à trous layers, four at most. Those with missing samples take no part. */
export function squaresOfBand(
  band: Float32Array,
  { width, height }: Pick<Rect, 'width' | 'height'>,
  count: number
): Square[][] {
  const squares = Array.from({ length: count }, (): Square[] => []);
  const plane = band.slice();
  cutPeaks(plane, width, height);
  inRoom(() => {
    throughLayers(plane, wholeField({ x: 0, y: 0, width, height }), count, (layer, number) => {
      const side = number === 0 ? SIDE : WIDE;
      for (const one of squaresOf(plane, width, height, layer, side, layersReach(number + 1)))
        squares[number].push(one);
    });
  }, layersRoom(plane.length));
  return squares;
}

/** σ where the plane has a value. */
export function sigmaAt({ from, to, sigmas }: NoiseCurve, value: number): number {
  const last = sigmas.length - 1;
  const place = Math.min(last, Math.max(0, ((value - from) / (to - from)) * last));
  const node = Math.min(last - 1, Math.floor(place));
  return sigmas[node] + (sigmas[node + 1] - sigmas[node]) * (place - node);
}

export const scaledCurve = (curve: NoiseCurve, by: number): NoiseCurve => ({
  ...curve,
  sigmas: curve.sigmas.map((sigma) => sigma * by)
});
