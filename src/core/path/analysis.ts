import type { Planes } from '../colour';
import { fromFrame, type Point } from '../raster/geometry';
import type { Raster, Rect } from '../raster/raster';
import { alone, withEvaluated } from './evaluate';
import { planSize, type Plan } from './plan';

/** The most pixels of the raster from which steps take their statistics. */
export const ANALYSIS_PIXELS = 1_048_576;
const BAND = 128;

/** The finest level of at most `most` pixels; the smallest that the frame has where none is. */
export function levelOfAtMost(plan: Pick<Plan, 'geometry' | 'frame'>, most: number): number {
  const last = plan.frame.levels.length - 1;
  for (let level = 0; level < last; level++) {
    const { width, height } = planSize(plan, level);
    if (width * height <= most) return level;
  }
  return last;
}

/** Evaluates a region, by whatever is kept from before. */
export type Evaluated = (rect: Rect, use: (raster: Raster) => void) => void;

/** One of so many parts of a picture's height, counted from 0. */
export interface Part {
  readonly at: number;
  readonly of: number;
}

/** Goes through the picture at a level, or one of so many parts of its height, band by band. */
export function inBands(
  plan: Plan,
  level: number,
  use: (band: Raster) => void,
  evaluated: Evaluated = (rect, then) => withEvaluated(plan, level, rect, null, then),
  part: Part = { at: 0, of: 1 }
): void {
  const { width, height } = planSize(plan, level);
  const end = Math.floor((height * (part.at + 1)) / part.of);
  for (let y = Math.floor((height * part.at) / part.of); y < end; y += BAND)
    evaluated({ x: 0, y, width, height: Math.min(BAND, end - y) }, use);
}

/** Coded RGB of the whole picture at a level. */
function wholePlanes(plan: Plan, level: number, goOn: () => void): { planes: Float32Array[]; n: number } {
  const { width, height } = planSize(plan, level);
  const planes = [0, 1, 2].map(() => new Float32Array(width * height));
  inBands(
    plan,
    level,
    (band) => {
      const n = width * band.height;
      band.planes.forEach((plane, c) => planes[c].set(plane.subarray(0, n), band.y * width));
    },
    (rect, use) => withEvaluated(plan, level, rect, null, use, alone(goOn))
  );
  return { planes, n: width * height };
}

/**
 * The analysis raster of a step whose upstream is `plan`: its input over the frame box-averaged to at most 1,048,576
 * pixels. Pixels with a missing sample are taken out.
 * @param goOn called before each step that is evaluated for it; what it throws ends that
 */
export function analysisPlanes(
  plan: Plan,
  goOn: () => void = () => undefined
): { planes: Planes; n: number } {
  const { planes, n: all } = wholePlanes(plan, levelOfAtMost(plan, ANALYSIS_PIXELS), goOn);
  const [r, g, b] = planes;
  let n = 0;
  for (let i = 0; i < all; i++) {
    if (Number.isNaN(r[i] + g[i] + b[i])) continue;
    for (const plane of planes) plane[n] = plane[i];
    n++;
  }
  return { planes: planes.map((p) => p.subarray(0, n)), n };
}

/** The part of the picture under a square of `size` full-size pixels about a place of the frame; null where there is none. */
function squareUnder(plan: Plan, place: Point, size: number): Rect | null {
  const { width, height } = plan.geometry;
  const at = plan.plain ? place : fromFrame(plan.geometry, place);
  const side = Math.max(1, Math.round(size));
  const left = Math.floor(at.x) - ((side - 1) >> 1);
  const top = Math.floor(at.y) - ((side - 1) >> 1);
  const rect = {
    x: Math.max(0, left),
    y: Math.max(0, top),
    width: Math.min(width, left + side) - Math.max(0, left),
    height: Math.min(height, top + side) - Math.max(0, top)
  };
  return rect.width > 0 && rect.height > 0 ? rect : null;
}

/** The most samples that are taken from under one square, evenly spread. */
const MOST_SAMPLES = 1024;

/** Coded RGB of the samples under squares of full-size pixels; missing ones and what lies beside the picture left out. */
export function samplesUnder(
  plan: Plan,
  places: readonly { readonly x: number; readonly y: number; readonly size: number }[]
): Planes {
  const found: number[][] = [[], [], []];
  for (const { size, ...place } of places) {
    const rect = squareUnder(plan, place, size);
    if (!rect) continue;
    withEvaluated(plan, 0, rect, null, ({ planes: [r, g, b] }) => {
      const n = rect.width * rect.height;
      const step = Math.max(1, n / MOST_SAMPLES);
      for (let at = 0; at < n; at += step) {
        const i = Math.floor(at);
        if (Number.isNaN(r[i] + g[i] + b[i])) continue;
        [r, g, b].forEach((plane, c) => found[c].push(plane[i]));
      }
    });
  }
  return found.map((values) => Float32Array.from(values));
}

/**
 * Mean of coded RGB over a square of `size` full-size pixels about a place of the frame (pixel corners are whole
 * numbers); null where nothing of it is in the picture.
 */
export function meanAround(plan: Plan, place: Point, size: number): [number, number, number] | null {
  const rect = squareUnder(plan, place, size);
  if (!rect) return null;
  return withEvaluated(plan, 0, rect, null, ({ planes: [r, g, b] }) => {
    const sums: [number, number, number] = [0, 0, 0];
    let count = 0;
    for (let i = 0; i < rect.width * rect.height; i++) {
      if (Number.isNaN(r[i] + g[i] + b[i])) continue;
      sums[0] += r[i];
      sums[1] += g[i];
      sums[2] += b[i];
      count++;
    }
    return count ? (sums.map((s) => s / count) as [number, number, number]) : null;
  });
}
