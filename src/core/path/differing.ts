import { modelOf, type Encoding, type Planes } from '../colour';
import { encodePlane } from '../colour/code-planes';
import { inRoom, takePlane } from '../kernels/arena';
import { ciede2000 } from '../measure/difference';
import { addedUp, counted, histogram, type Histogram } from '../measure/histogram';
import type { Raster } from '../raster/raster';

/** In what two pictures are set against each other: their samples of red, green and blue, or their colours in ΔE 2000. */
export type DifferIn = 'samples' | 'colours';

/** How a difference is seen: in what, and how many times as strong. */
export interface DifferenceView {
  readonly by: DifferIn;
  readonly times: number;
}

/** ΔE 2000 is stored as a hundredth of itself: 0…1 as samples are. */
const DELTA_E = 100;
/** Differences of 0…1 are counted in so many bins: 0.005 % of full scale, or ΔE 0.005. */
const BINS = 20_000;

/** How much two pictures differ, in parts of full scale or hundredths of ΔE 2000. */
export interface Differing {
  readonly sum: number;
  readonly largest: number;
  /** Where that was found first, in pixels of the picture; null where nothing could be compared. */
  readonly at: { readonly x: number; readonly y: number } | null;
  readonly counts: Histogram;
  /** Pixels that could be compared, and those of them that are not the same in both. */
  readonly pixels: number;
  readonly apart: number;
}

/**
 * |A − B| of two rasters over the same rectangle: of red, green and blue each, or ΔE 2000 a hundredth in one plane. What lies
 * beyond 0…1 counts as its end, as on the screen and in files. Pictures of the same encoding are compared as they stand, others
 * coded. Missing where one of the two is; in the arena.
 */
function planesOf(one: Raster, other: Raster, by: DifferIn): Planes {
  const n = one.width * one.height;
  const encode = one.encoding !== other.encoding;
  const [a, b] = [one, other].map((raster) => seenPlanes(raster, encode, n));
  if (by === 'samples') {
    a.forEach((plane, c) => {
      for (let i = 0; i < n; i++) plane[i] = Math.abs(plane[i] - b[c][i]);
    });
    return a;
  }
  const out = takePlane(n);
  for (let i = 0; i < n; i++) out[i] = 0 * (a[0][i] + a[1][i] + a[2][i] + b[0][i] + b[1][i] + b[2][i]);
  for (const planes of [a, b]) toLab(planes, encode ? 'coded' : one.encoding, n);
  const [l1, a1, b1] = a;
  const [l2, a2, b2] = b;
  // What is missing stays so, whatever number its LAB is.
  for (let i = 0; i < n; i++) out[i] += ciede2000(l1[i], a1[i], b1[i], l2[i], a2[i], b2[i]) / DELTA_E;
  return [out];
}

/** RGB as it is seen, clamped to 0…1; in the arena, where kernels are fast, to be written to. */
function seenPlanes({ planes, encoding }: Raster, encode: boolean, n: number): Planes {
  return planes.map((plane) => {
    const out = takePlane(n);
    out.set(plane.subarray(0, n));
    if (encode && encoding === 'linear') encodePlane(out, out, n);
    for (let i = 0; i < n; i++) out[i] = Math.min(1, Math.max(0, out[i]));
    return out;
  });
}

/** RGB → L*, a*, b*, in place. */
export function toLab(planes: Planes, encoding: Encoding, n: number): void {
  modelOf('lab').kernels[encoding].fromRgb(planes, planes, n);
  const [l, a, b] = planes;
  for (let i = 0; i < n; i++) {
    l[i] *= 100;
    a[i] = (a[i] - 0.5) * 256;
    b[i] = (b[i] - 0.5) * 256;
  }
}

/** The difference of two pictures as a picture, so many times as strong; lent while `use` runs. */
export const withDifference = <T>(
  one: Raster,
  other: Raster,
  { by, times }: DifferenceView,
  use: (raster: Raster) => T
): T =>
  inRoom(() => {
    const planes = planesOf(one, other, by);
    for (const plane of planes) for (let i = 0; i < plane.length; i++) plane[i] *= times;
    const [red, green = red, blue = red] = planes;
    return use({ ...one, planes: [red, green, blue], encoding: 'coded', alpha: null });
  });

/** How much two rasters over the same rectangle differ. Samples that are missing in one of them do not count. */
export function measureDifference(one: Raster, other: Raster, by: DifferIn): Differing {
  return inRoom(() => {
    let [sum, largest, found] = [0, -1, 0];
    let counts = histogram(NOTHING, 0, BINS);
    const n = one.width * one.height;
    const planes = planesOf(one, other, by);
    let [pixels, apart] = [0, 0];
    for (let i = 0; i < n; i++) {
      let most = planes[0][i];
      for (let c = 1; c < planes.length; c++) most = Math.max(most, planes[c][i]);
      if (most !== most) continue;
      pixels++;
      if (most > 0) apart++;
    }
    for (const plane of planes) {
      counts = counted(counts, plane, n);
      for (let i = 0; i < n; i++) {
        const v = plane[i];
        if (v !== v) continue;
        sum += v;
        if (v > largest) {
          largest = v;
          found = i;
        }
      }
    }
    if (largest < 0) return { sum, largest: 0, at: null, counts, pixels, apart };
    const at = { x: one.x + (found % one.width), y: one.y + Math.floor(found / one.width) };
    return { sum, largest, at, counts, pixels, apart };
  });
}

const NOTHING = new Float32Array(0);

interface Size {
  readonly width: number;
  readonly height: number;
}

/** Why the difference of two pictures can't be seen, in words for a person; null where it can. */
export const differentSizes = (one: Size, other: Size): string | null =>
  one.width === other.width && one.height === other.height
    ? null
    : `One is ${one.width} × ${one.height} pixels, the other ${other.width} × ${other.height}: only pictures of one size have a difference.`;

/** What was measured of two parts of the pictures, of both together. */
export function bothDifferences(one: Differing, other: Differing): Differing {
  const greater = other.at !== null && (one.at === null || other.largest > one.largest) ? other : one;
  const { largest, at } = greater;
  return {
    ...{ sum: one.sum + other.sum, largest, at, counts: addedUp(one.counts, other.counts) },
    ...{ pixels: one.pixels + other.pixels, apart: one.apart + other.apart }
  };
}

/** Mean, 95th percentile (to a bin of the counts) and largest difference, and the part of the pixels that differ; null where nothing could be compared. */
export function differenceFigures({
  sum,
  largest,
  at,
  counts: { counts, total },
  pixels,
  apart
}: Differing): {
  mean: number;
  most: number;
  largest: number;
  at: { readonly x: number; readonly y: number };
  apart: number;
} | null {
  if (total === 0 || !at) return null;
  const rank = 0.95 * total;
  let below = 0;
  let bin = 0;
  while (below + counts[bin] < rank) below += counts[bin++];
  const part = counts[bin] > 0 ? (rank - below) / counts[bin] : 0;
  return {
    mean: sum / total,
    most: Math.min(largest, (bin + part) / BINS),
    largest,
    at,
    apart: apart / pixels
  };
}
