import { fillChannels } from '../colour';
import { histogram, type Histogram } from '../measure/histogram';
import { levelOfAtMost, wholePlanes, type Evaluated } from './analysis';
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
  /** Counts over a (across, −110 first) and b (down, +110 first). */
  readonly density: Uint32Array;
}

/** Histograms of `channels` over their nominal 0…1, and the density over a and b, of the whole picture. */
export function measurePicture(
  plan: Plan,
  channels: readonly string[],
  evaluatedAt?: (level: number) => Evaluated
): Measured {
  const level = levelOfAtMost(plan, MEASURED_PIXELS);
  const { planes, width, height } = wholePlanes(plan, level, evaluatedAt?.(level));
  const n = width * height;
  const values = channels.map(() => new Float32Array(n));
  fillChannels(channels, planes, values, n);
  const [a, b] = [new Float32Array(n), new Float32Array(n)];
  fillChannels(['lab.a', 'lab.b'], planes, [a, b], n);
  const density = new Uint32Array(DENSITY_CELLS * DENSITY_CELLS);
  const scale = (256 * DENSITY_CELLS) / (2 * DENSITY_REACH);
  for (let i = 0; i < n; i++) {
    const x = Math.floor((a[i] - 0.5) * scale + DENSITY_CELLS / 2);
    const y = Math.floor(DENSITY_CELLS / 2 - (b[i] - 0.5) * scale);
    if (x >= 0 && y >= 0 && x < DENSITY_CELLS && y < DENSITY_CELLS) density[y * DENSITY_CELLS + x]++;
  }
  return { histograms: values.map((plane) => histogram(plane, n, HISTOGRAM_BINS)), density };
}
