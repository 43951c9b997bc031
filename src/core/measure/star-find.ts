/** Every star of a picture, and how far its light reaches: peaks of all sizes up to one, held against the fall of their light outwards. */
import { layerResponse, layersRoom, throughLayers } from '../spatial/a-trous';
import { wholeField } from '../spatial/field';
import { inRoom } from '../kernels/arena';
import { sigmaAt, type NoiseCurve } from './noise-curve';
import type { Size } from './noise';
import { MAD_TO_SIGMA, medianOf } from './sky';
import type { StarLight } from './star-light';

export interface FoundStar {
  /** Its middle in full-size pixels, from the upper left corner of the upper left one. */
  readonly x: number;
  readonly y: number;
  /** Beyond so many pixels its light falls no more. */
  readonly radius: number;
  /** How high it rises. */
  readonly height: number;
}

export interface FindHow {
  /** How many σ of the noise it rises by. */
  readonly threshold: number;
  /** Its radius at most, in pixels. */
  readonly largest: number;
}

/** Layers of the à trous transform in which stars peak, by their sizes. */
const [FINEST, COARSEST] = [1, 3];
const BAND = 512;
/** Rings are looked at so far beyond a star. */
const BEYOND = 16;
/** More than so many are no stars any more. */
export const MOST_STARS = 20_000;

export interface FoundStars {
  /** The highest first. */
  readonly stars: readonly FoundStar[];
  /** So many more were found than are taken: the faintest. */
  readonly more: number;
}
/** A fall of less than this part of σ over so many rings is none. */
const [FALLS, RINGS, SLOPE] = [0.5, 4, 2];
/** Of what rises over half of its height the short axis is at least this part of the long one. */
const ROUND = 0.45;
/** What has so little of its height beside its middle is a single hot sample. */
const HOT = 0.2;
/** Light that falls from three quarters of its height to one over so many times what is common, and so many pixels, is no star's. */
const [WIDER, AND] = [1.8, 0.3];
/** Where what is common stands among all peaks: those of a nebula lie above. */
const COMMON = 0.3;
/** How far, in parts of its height, a star's rings may lie from what is common, and how much more where noise moves them. */
const [SECOND, THIRD, LOOSE, UNDER] = [0.17, 0.1, 0.7, 0.1];
/** A star rises by so many times what the ring about it scatters by, where that is a nebula's more than noise. */
const UNREST = 1.25;
/** Of what is so far over the noise, as a part of its height, the fall alone tells: it may be burnt out, or two. */
const BRIGHT = 0.01;

interface Plane {
  readonly width: number;
  readonly height: number;
  readonly samples: Float32Array;
}
/** What rises somewhere, and how its light falls. */
export interface Profile extends FoundStar {
  /** Its radius with the dark ring about it. */
  readonly dark: number;
  /** Over how many pixels its light falls from three quarters of its height to one. */
  readonly fall: number;
  /** Its rings from the first on, as parts of its height, and how far noise may move one. */
  readonly shape: readonly number[];
  readonly loose: number;
}

/** Stars are taken for at least so wide, and for so wide where they are told by hand and nothing rises there. */
const LEAST = 4;
/** Rings by which a star's shape is told. */
const SHAPE = 5;

/** The samples of a ring about a place, a pixel wide. */
function ringOf({ width, height, samples }: Plane, x: number, y: number, ring: number): number[] {
  const values: number[] = [];
  // The middle holds a sample wherever it lies.
  const [inner, outer] = ring === 0 ? [0, 0.75] : [ring - 0.5, ring + 0.5];
  const reach = Math.ceil(outer);
  const [mx, my] = [x - 0.5, y - 0.5];
  for (
    let j = Math.max(0, Math.floor(my) - reach);
    j <= Math.min(height - 1, Math.floor(my) + reach + 1);
    j++
  ) {
    const dy = j - my;
    for (
      let i = Math.max(0, Math.floor(mx) - reach);
      i <= Math.min(width - 1, Math.floor(mx) + reach + 1);
      i++
    ) {
      const d = (i - mx) ** 2 + dy * dy;
      if (d < outer * outer && d >= inner * inner) {
        const v = samples[j * width + i];
        if (v === v) values.push(v);
      }
    }
  }
  return values;
}

/** Medians of rings, as they are asked for; NaN where no sample is there. */
function ringsAbout(plane: Plane, x: number, y: number): (ring: number) => number {
  const known: number[] = [];
  return (ring) => {
    if (known[ring] === undefined) {
      const values = ringOf(plane, x, y, ring);
      known[ring] = values.length === 0 ? Number.NaN : medianOf(values);
    }
    return known[ring];
  };
}

/** σ of the samples of a ring about the slope that they lie on, by their median deviation; 0 of none. */
function unrestOf({ width, height, samples }: Plane, x: number, y: number, ring: number): number {
  const count = Math.ceil(2 * Math.PI * ring);
  const [across, down, values] = [new Float64Array(count), new Float64Array(count), new Float32Array(count)];
  let n = 0;
  for (let k = 0; k < count; k++) {
    const [dx, dy] = [ring * Math.cos((2 * Math.PI * k) / count), ring * Math.sin((2 * Math.PI * k) / count)];
    const [i, j] = [Math.floor(x + dx), Math.floor(y + dy)];
    if (i < 0 || j < 0 || i >= width || j >= height) continue;
    [across[n], down[n], values[n]] = [dx, dy, samples[j * width + i]];
    n++;
  }
  const middle = medianOf(values.subarray(0, n));
  const slopeAlong = (offsets: Float64Array): number => {
    const slopes = new Float32Array(n);
    let some = 0;
    for (let k = 0; k < n; k++)
      if (Math.abs(offsets[k]) > ring / 2) slopes[some++] = (values[k] - middle) / offsets[k];
    return medianOf(slopes.subarray(0, some));
  };
  const [a, b] = [slopeAlong(across), slopeAlong(down)];
  const off = values.subarray(0, n).map((v, k) => Math.abs(v - middle - a * across[k] - b * down[k]));
  return MAD_TO_SIGMA * medianOf(off);
}

/** Where a profile that falls outwards comes under a value, straight between its rings. */
function falls(ringAt: (ring: number) => number, to: number, value: number): number {
  for (let ring = 1; ring <= to; ring++) {
    const [before, here] = [ringAt(ring - 1), ringAt(ring)];
    if (here < value) return ring - 1 + (before > here ? Math.min(1, (before - value) / (before - here)) : 1);
  }
  return to;
}

/** A rise of less than so many σ over so many rings is no dark ring's end. */
const [RISES, WIDE] = [2, 8];
/** Sharpening leaves a dark ring about a star: where it ends; what a nebula rises by goes on rising so. */
function beyondDark(ringAt: (ring: number) => number, from: number, largest: number, sigma: number): number {
  let radius = from;
  for (; radius < largest; radius++) {
    const [here, next, after] = [0, WIDE, 2 * WIDE].map((ring) => ringAt(radius + ring));
    // Where the picture ends before, `after` is not known, and nothing is taken for a ring.
    if (!(next - here > RISES * sigma + SLOPE * Math.max(0, after - next))) break;
  }
  return radius;
}

/** The star about a peak; null where it is none. */
function profileOf(
  plane: Plane,
  peak: { x: number; y: number },
  noise: NoiseCurve,
  how: FindHow
): Profile | null {
  let { x, y } = peak;
  let found: Profile | null = null;
  for (let round = 0; round < 2; round++) {
    const ringAt = ringsAbout(plane, x, y);
    let radius = LEAST;
    let sigma = 0;
    for (; radius <= how.largest; radius++) {
      const [next, after] = [ringAt(radius + RINGS), ringAt(radius + 2 * RINGS)];
      if (!(next === next)) break;
      sigma = sigmaAt(noise, next);
      // What a nebula falls by goes on falling so.
      const goesOn = after === after ? Math.max(0, next - after) : 0;
      if (ringAt(radius) - next < FALLS * sigma + SLOPE * goesOn) break;
    }
    if (radius > how.largest) return null;
    const ground = ringAt(radius);
    const height = ringAt(0) - ground;
    if (!(height > how.threshold * Math.max(sigma, 1e-9))) return null;
    if (height < UNREST * unrestOf(plane, x, y, radius + RINGS)) return null;
    if (ringAt(1) - ground < HOT * height) return null;
    const half = falls(ringAt, radius, ground + height / 2);
    const fall = falls(ringAt, radius, ground + height / 4) - falls(ringAt, radius, ground + 0.75 * height);
    const middle = momentsOf(plane, x, y, half + 1, ground + height / 2);
    if (!middle || middle.ratio < ROUND) return null;
    const shape = Array.from({ length: SHAPE }, (_, k) => (ringAt(k + 1) - ground) / height);
    const dark = beyondDark(ringAt, radius, how.largest, sigma);
    found = { x, y, radius, dark, height, fall, shape, loose: sigma / height };
    if (Math.hypot(middle.x - x, middle.y - y) < 0.3) break;
    ({ x, y } = middle);
  }
  return found;
}

/** Middle and roundness of what lies over a value within a radius. */
function momentsOf(
  { width, height, samples }: Plane,
  x: number,
  y: number,
  radius: number,
  value: number
): { x: number; y: number; ratio: number } | null {
  let [n, sx, sy, xx, xy, yy] = [0, 0, 0, 0, 0, 0];
  const reach = Math.ceil(radius);
  for (let j = Math.max(0, Math.floor(y) - reach); j <= Math.min(height - 1, Math.floor(y) + reach); j++)
    for (let i = Math.max(0, Math.floor(x) - reach); i <= Math.min(width - 1, Math.floor(x) + reach); i++) {
      const [dx, dy] = [i + 0.5 - x, j + 0.5 - y];
      if (dx * dx + dy * dy > radius * radius || !(samples[j * width + i] > value)) continue;
      n++;
      sx += dx;
      sy += dy;
      xx += dx * dx;
      xy += dx * dy;
      yy += dy * dy;
    }
  if (n === 0) return null;
  const [mx, my] = [sx / n, sy / n];
  // A sample is as wide as itself.
  const [a, b, c] = [xx / n - mx * mx + 1 / 12, xy / n - mx * my, yy / n - my * my + 1 / 12];
  const apart = Math.hypot((a - c) / 2, b);
  return { x: x + mx, y: y + my, ratio: Math.sqrt(((a + c) / 2 - apart) / ((a + c) / 2 + apart)) };
}

interface Peak {
  readonly x: number;
  readonly y: number;
  readonly high: number;
}

/** Peaks of a layer between two rows of a plane. @param least they rise over so many σ */
function peaksIn(
  layer: Float32Array,
  { width, height, samples }: Plane,
  [from, to]: readonly [number, number],
  noise: NoiseCurve,
  least: number
): Peak[] {
  const peaks: Peak[] = [];
  // Far more samples are told by this than by their own noise.
  const lowest = Math.max(0, 0.999 * least * Math.min(...noise.sigmas));
  for (let y = Math.max(1, from); y < Math.min(height - 1, to); y++)
    for (let i = y * width + 1; i < (y + 1) * width - 1; i++) {
      const v = layer[i];
      if (!(v > lowest) || v <= layer[i - 1] || v < layer[i + 1]) continue;
      if (v <= layer[i - width - 1] || v <= layer[i - width] || v <= layer[i - width + 1]) continue;
      if (v < layer[i + width - 1] || v < layer[i + width] || v < layer[i + width + 1]) continue;
      if (v > least * sigmaAt(noise, samples[i] - v))
        peaks.push({ x: i - y * width + 0.5, y: y + 0.5, high: v });
    }
  return peaks;
}

/** The layers of a row hang on so many rows on either side, and a peak on the rows beside its own. */
const ROWS_BESIDE = 2 * (2 ** (COARSEST + 1) - 1) + 1;

/** Peaks of the layers of a plane between two of its rows, the highest first. */
function peaksOf(
  plane: Plane,
  [from, to]: readonly [number, number],
  { layers }: StarLight,
  threshold: number
): Peak[] {
  const { width } = plane;
  const [top, bottom] = [Math.max(0, from - ROWS_BESIDE), Math.min(plane.height, to + ROWS_BESIDE)];
  const samples = plane.samples.subarray(top * width, bottom * width);
  const part = { width, height: bottom - top, samples };
  const peaks: Peak[] = [];
  inRoom(() => {
    throughLayers(samples, wholeField({ x: 0, y: 0, ...part }), COARSEST + 1, (smoothed, number) => {
      if (number < FINEST) return;
      // Not in the kernels' memory, where what reads single samples is slow.
      const layer = smoothed.slice();
      const least = threshold * layerResponse(number);
      for (const peak of peaksIn(layer, part, [from - top, to - top], layers[number], least))
        peaks.push({ ...peak, y: peak.y + top });
    });
  }, layersRoom(samples.length));
  return peaks.sort((a, b) => b.high - a.high);
}

/** Rows of a picture one stretch after another: of what lies in two, each row is read once. */
function rowsOf({ width }: Size, light: StarLight): (top: number, bottom: number) => Float32Array {
  let [first, known] = [0, new Float32Array()];
  return (top, bottom) => {
    const rows = new Float32Array(width * (bottom - top));
    const kept = top < first ? new Float32Array() : known.subarray((top - first) * width);
    rows.set(kept);
    const y = top + kept.length / width;
    if (y < bottom) rows.set(light.read({ x: 0, y, width, height: bottom - y }), kept.length);
    [first, known] = [top, rows];
    return rows;
  };
}

/** Takes stars in, the brightest first, and leaves out what lies in the heart of one that was taken. */
class Apart {
  private readonly cells = new Map<number, FoundStar[]>();
  private static readonly CELL = 64;
  /** More cells than a row has. */
  private static readonly ROW = 2 ** 20;

  private static cellOf(x: number, y: number): number {
    return Math.floor(y / Apart.CELL) * Apart.ROW + Math.floor(x / Apart.CELL);
  }
  /** Whether a place lies so near a star that it is that one. */
  has(x: number, y: number): boolean {
    const cell = Apart.cellOf(x, y);
    for (let j = -1; j <= 1; j++)
      for (let i = -1; i <= 1; i++)
        for (const star of this.cells.get(cell + j * Apart.ROW + i) ?? [])
          if (Math.hypot(star.x - x, star.y - y) < Math.max(1.5, 0.4 * star.radius)) return true;
    return false;
  }
  add(star: FoundStar): true {
    const cell = Apart.cellOf(star.x, star.y);
    const stars = this.cells.get(cell);
    if (stars) stars.push(star);
    else this.cells.set(cell, [star]);
    return true;
  }
}

/** How far the light of the star about a place reaches, told within a part about it; null where none rises there. */
export function starAbout(
  size: Size,
  light: StarLight,
  [x, y]: readonly [number, number],
  largest: number
): FoundStar | null {
  const reach = 2 * largest + BEYOND;
  const [left, top] = [x, y].map((v) => Math.max(0, Math.floor(v) - reach));
  const rect = {
    ...{ x: left, y: top },
    width: Math.min(size.width, Math.floor(x) + reach + 1) - left,
    height: Math.min(size.height, Math.floor(y) + reach + 1) - top
  };
  if (rect.width < 1 || rect.height < 1) return null;
  const plane = { width: rect.width, height: rect.height, samples: filled(light.read(rect)) };
  const star = profileOf(plane, { x: x - left, y: y - top }, light.noise, { threshold: 0, largest });
  return star && { x: star.x + left, y: star.y + top, radius: star.dark, height: star.height };
}

/** First rows of the bands in which stars are looked for. */
export const starBands = ({ height }: Size): number[] =>
  Array.from({ length: Math.ceil(height / BAND) }, (_, k) => k * BAND);

/** What rises like a star in bands one after another. Yields how much of it is done, 0…1. */
export function* risesIn(
  tops: readonly number[],
  size: Size,
  light: StarLight,
  how: FindHow
): Generator<number, Profile[], void> {
  const margin = 2 * how.largest + BEYOND;
  const found: Profile[] = [];
  const rows = rowsOf(size, light);
  for (const [k, top] of tops.entries()) {
    const y = Math.max(0, top - margin);
    const bottom = Math.min(size.height, top + BAND);
    const below = Math.min(size.height, bottom + margin);
    const plane = { width: size.width, height: below - y, samples: filled(rows(y, below)) };
    const apart = new Apart();
    for (const peak of peaksOf(plane, [top - y, bottom - y], light, how.threshold)) {
      if (apart.has(peak.x, peak.y)) continue;
      const star = profileOf(plane, peak, light.noise, how);
      if (!star || apart.has(star.x, star.y)) continue;
      apart.add(star);
      found.push({ ...star, y: star.y + y });
    }
    yield (k + 1) / tops.length;
  }
  return found;
}

/** Which of what rises in all bands, in their order, are stars. @param most so many of them are taken, the highest */
export function starsAmong(rises: readonly Profile[], most = MOST_STARS): FoundStars {
  const found = [...rises].sort((a, b) => b.height - a.height);
  const isStar = likeOthers(found);
  // A star at the edge of a band may have been found in both.
  const all = new Apart();
  const apart = found.filter((star) => isStar(star) && !all.has(star.x, star.y) && all.add(star));
  return {
    stars: apart.slice(0, most).map(({ x, y, dark, height }) => ({ x, y, radius: dark, height })),
    more: Math.max(0, apart.length - most)
  };
}

/** Whether a profile is that of a star: all stars of a picture are spread alike, while what is a nebula's falls more slowly or lies on a slope. */
function likeOthers(found: readonly Profile[]): (one: Profile) => boolean {
  const common = (value: (one: Profile) => number): number => {
    const sorted = found.map(value).sort((a, b) => a - b);
    return sorted[Math.floor(COMMON * sorted.length)] ?? 0;
  };
  const fall = common((one) => one.fall);
  const [second, third] = [1, 2].map((k) => common(({ shape }) => shape[k] / shape[0]));
  return (one) => {
    const { shape, loose } = one;
    const noisy = LOOSE * loose;
    if (one.fall > WIDER * fall + AND) return false;
    if (Math.min(shape[3], shape[4]) < -UNDER - noisy) return false;
    return (
      loose < BRIGHT ||
      (shape[1] / shape[0] < second + SECOND + noisy && shape[2] / shape[0] < third + THIRD + noisy)
    );
  };
}

/** Missing samples of a part take the value of the last that was there, so that they make no peak. */
function filled(grey: Float32Array): Float32Array {
  let there = 0;
  while (there < grey.length && grey[there] === grey[there]) there++;
  if (there === grey.length) return grey;
  const whole = grey.slice();
  let last = medianOf(grey.subarray(0, 4096).filter((v) => v === v));
  for (let i = 0; i < grey.length; i++) {
    if (grey[i] === grey[i]) last = grey[i];
    else whole[i] = last;
  }
  return whole;
}
