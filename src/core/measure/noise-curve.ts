/** How strong the noise of a plane is where it is dark and where it is bright: light comes in counts, and a stretch changes what they scatter by. */
import type { Rect } from '../raster/raster';
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
 * of σ where there is none (worked out from ten million samples of white noise).
 */
const [QUIET, QUIET_PART] = [0.05, 0.8451];

interface Square {
  readonly value: number;
  readonly scatter: number;
}

/** The squares of a part that miss no sample. */
function squaresOf(plane: Float32Array, width: number, height: number): Square[] {
  const layer = finestLayer(plane, width, height);
  const found: Square[] = [];
  for (let y = 2; y + SIDE <= height - 2; y += SIDE) {
    for (let x = 2; x + SIDE <= width - 2; x += SIDE) {
      let [sum, squares] = [0, 0];
      for (let j = 0; j < SIDE; j++) {
        const from = (y + j) * width + x;
        for (let i = from; i < from + SIDE; i++) {
          sum += plane[i];
          squares += layer[i] * layer[i];
        }
      }
      const count = SIDE * SIDE;
      if (squares === squares) found.push({ value: sum / count, scatter: Math.sqrt(squares / count) });
    }
  }
  return found;
}

const NONE: NoiseCurve = { from: 0, to: 1, sigmas: [0, 0] };

function curveOf(squares: readonly Square[]): NoiseCurve {
  if (squares.length === 0) return NONE;
  const sorted = [...squares].sort((a, b) => a.value - b.value);
  const count = Math.max(1, Math.min(MOST_PLACES, Math.floor(sorted.length / FEWEST)));
  const places = Array.from({ length: count }, (_, k) => {
    const part = sorted.slice(
      Math.floor((k * sorted.length) / count),
      Math.floor(((k + 1) * sorted.length) / count)
    );
    const scatters = part.map(({ scatter }) => scatter).sort((a, b) => a - b);
    const quiet = scatters[Math.floor(QUIET * (scatters.length - 1))];
    return { value: part[part.length >> 1].value, sigma: quiet / (QUIET_PART * RESPONSE) };
  });
  const [from, to] = [places[0].value, places[count - 1].value];
  if (!(to > from)) {
    const sigma = places[count >> 1].sigma;
    return { from, to: from + 1, sigmas: [sigma, sigma] };
  }
  const sigmas = Array.from({ length: NODES }, (_, i) => {
    const value = from + ((to - from) * i) / (NODES - 1);
    const above = Math.max(
      1,
      places.findIndex((place) => place.value >= value)
    );
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
  return squares.map(curveOf);
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
