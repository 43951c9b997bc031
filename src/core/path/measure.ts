import { fillPresent } from '../colour';
import { inRoom, takePlane } from '../kernels/arena';
import { addedUp, counted, histogram, type Histogram } from '../measure/histogram';
import type { Raster } from '../raster/raster';
import { inBands, levelOfAtMost, type Evaluated, type Part } from './analysis';
import type { Plan } from './plan';

/** The most pixels of the raster that the instruments look at. */
const MEASURED_PIXELS = 180_000;
export const HISTOGRAM_BINS = 256;
/** The plane of a and b is counted on so many cells a side, from −110 to 110. */
export const DENSITY_CELLS = 110;
export const DENSITY_REACH = 110;

export interface Measured {
  /** One for each channel asked for. */
  readonly histograms: readonly Histogram[];
  /** Counts over a (across, −110 first) and b (down, +110 first), where both are among the channels; else empty. */
  readonly density: Uint32Array;
}

/** The values over which a histogram goes. */
export type Range = readonly [low: number, high: number];

/** Histograms of `channels` over a range of their stored values, and the density over a and b, of the picture or a part of it. */
export function measurePicture(
  plan: Plan,
  channels: readonly string[],
  evaluatedAt?: (level: number) => Evaluated,
  part?: Part,
  [low, high]: Range = [0, 1]
): Measured {
  const level = levelOfAtMost(plan, MEASURED_PIXELS);
  let histograms = channels.map(() => histogram(NOTHING, 0, HISTOGRAM_BINS, low, high));
  const [a, b] = [channels.indexOf('lab.a'), channels.indexOf('lab.b')];
  const onPlane = a >= 0 && b >= 0;
  const density = new Uint32Array(onPlane ? DENSITY_CELLS * DENSITY_CELLS : 0);
  const look = ({ planes, encoding, width, height }: Raster): void => {
    const n = width * height;
    inRoom(() => {
      const values = channels.map(() => takePlane(n));
      fillPresent(channels, planes, encoding, values, n);
      histograms = histograms.map((so, c) => counted(so, values[c], n));
      if (onPlane) countDensity(values[a], values[b], density, n);
    });
  };
  inBands(plan, level, look, evaluatedAt?.(level), part);
  return { histograms, density };
}

/** What was measured of the parts of a picture, of the whole. @throws RangeError where there is none */
export function joined(parts: readonly Measured[]): Measured {
  if (parts.length === 0) throw new RangeError('nothing was measured');
  return parts.reduce((all, { histograms, density }) => ({
    histograms: all.histograms.map((so, c) => addedUp(so, histograms[c])),
    density: all.density.map((count, i) => count + density[i])
  }));
}

const NOTHING = new Float32Array(0);

function countDensity(a: Float32Array, b: Float32Array, density: Uint32Array, n: number): void {
  const scale = (256 * DENSITY_CELLS) / (2 * DENSITY_REACH);
  for (let i = 0; i < n; i++) {
    const x = Math.floor((a[i] - 0.5) * scale + DENSITY_CELLS / 2);
    const y = Math.floor(DENSITY_CELLS / 2 - (b[i] - 0.5) * scale);
    if (x >= 0 && y >= 0 && x < DENSITY_CELLS && y < DENSITY_CELLS) density[y * DENSITY_CELLS + x]++;
  }
}
