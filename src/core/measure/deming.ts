import { quantiles } from './quantile';
import { MAD_TO_SIGMA } from './sky';

/** A straight line y = offset + gain·x. */
export interface Line {
  readonly gain: number;
  readonly offset: number;
  /** How many samples it goes by, and σ of their distance from it in y. */
  readonly count: number;
  readonly residual: number;
  /** Some of the samples, spread over the picture, to be looked at: whether each was left out in the end. */
  readonly points: readonly LinePoint[];
}

export interface LinePoint {
  readonly x: number;
  readonly y: number;
  readonly out: boolean;
}

const POINTS = 300;
const ROUNDS = 5;
const CLIPPED_AT = 3;
/** Brighter samples may be clipped. */
const BRIGHTEST = 0.9;

/**
 * Deming regression (Deming 1943): both x and y carry noise. Five rounds leave out what lies further than 3 σ from the line; samples
 * over 0.9 of the range and missing ones take no part.
 * @param ratio σ² of the noise of y over that of x
 * @returns null where there is nothing to go by, or where one falls as the other rises: no level and strength make them alike
 */
export function demingLine(x: Float32Array, y: Float32Array, n: number, ratio: number): Line | null {
  const kept = new Uint8Array(n);
  const line = settledLine(x, y, kept, n, ratio);
  return line && line.gain > 0 ? { ...line, points: somePoints(x, y, kept, n) } : null;
}

function somePoints(x: Float32Array, y: Float32Array, kept: Uint8Array, n: number): LinePoint[] {
  const points: LinePoint[] = [];
  // By a step that goes round the picture's columns.
  const step = Math.max(1, Math.floor(n / POINTS)) | 1;
  for (let i = step >> 1; i < n; i += step)
    if (!Number.isNaN(x[i] + y[i])) points.push({ x: x[i], y: y[i], out: kept[i] === 0 });
  return points;
}

function settledLine(
  x: Float32Array,
  y: Float32Array,
  kept: Uint8Array,
  n: number,
  ratio: number
): Omit<Line, 'points'> | null {
  for (let i = 0; i < n; i++) kept[i] = x[i] <= BRIGHTEST && y[i] <= BRIGHTEST ? 1 : 0;
  let line: Omit<Line, 'points'> | null = null;
  const distances = new Float32Array(n);
  for (let round = 0; round <= ROUNDS; round++) {
    const next = fitted(x, y, kept, n, ratio);
    if (!next) return line;
    let count = 0;
    for (let i = 0; i < n; i++)
      if (kept[i]) distances[count++] = Math.abs(y[i] - next.offset - next.gain * x[i]);
    const sigma = MAD_TO_SIGMA * quantiles(distances, count, [0.5])[0];
    line = { ...next, count, residual: sigma };
    if (round === ROUNDS || sigma === 0) break;
    for (let i = 0; i < n; i++)
      if (kept[i] && Math.abs(y[i] - next.offset - next.gain * x[i]) > CLIPPED_AT * sigma) kept[i] = 0;
  }
  return line;
}

function fitted(
  x: Float32Array,
  y: Float32Array,
  kept: Uint8Array,
  n: number,
  ratio: number
): { gain: number; offset: number } | null {
  let [count, mx, my] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    if (!kept[i]) continue;
    count++;
    mx += x[i];
    my += y[i];
  }
  if (count < 2) return null;
  mx /= count;
  my /= count;
  let [xx, xy, yy] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    if (!kept[i]) continue;
    const [dx, dy] = [x[i] - mx, y[i] - my];
    xx += dx * dx;
    xy += dx * dy;
    yy += dy * dy;
  }
  if (xy === 0) return null;
  const difference = yy - ratio * xx;
  const gain = (difference + Math.sqrt(difference * difference + 4 * ratio * xy * xy)) / (2 * xy);
  return { gain, offset: my - gain * mx };
}
