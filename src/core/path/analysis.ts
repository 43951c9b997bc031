import type { Planes } from '../colour';
import { fromFrame, type Point } from '../raster/geometry';
import type { Raster, Rect } from '../raster/raster';
import { alone, neededRect, withEvaluated, type Held, type Surroundings } from './evaluate';
import { encodingAt, placeKey, planSize, type Plan } from './plan';

/** The most pixels of the raster from which steps take their statistics. */
export const ANALYSIS_PIXELS = 1_048_576;
const BAND = 128;

/** The finest level of at most `most` pixels; the smallest that the frame has where none is. */
export function levelOfAtMost(plan: Pick<Plan, 'geometry' | 'head'>, most: number): number {
  const last = plan.head.levels - 1;
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

/** The whole picture at a level, from where the same after fewer steps is known, band by band. */
function* wholeRaster(
  plan: Plan,
  level: number,
  around: Surroundings,
  known: Analysed | null
): Generator<number, Raster, void> {
  const { width, height } = planSize(plan, level);
  const planes = [0, 1, 2].map(() => new Float32Array(width * height));
  const begun = known && isBefore(known.plan, plan) && known.level === level ? known : null;
  const heldFor = (rect: Rect): Held | null => {
    if (!begun) return null;
    const steps = begun.plan.steps.length;
    return { steps, raster: cutOut(begun.raster, neededRect(plan, steps, level, rect)) };
  };
  for (let y = 0; y < height; y += BAND) {
    const rect = { x: 0, y, width, height: Math.min(BAND, height - y) };
    const n = width * rect.height;
    const put = (band: Raster): void =>
      band.planes.forEach((plane, c) => planes[c].set(plane.subarray(0, n), y * width));
    withEvaluated(plan, level, rect, heldFor(rect), put, around);
    yield (y + rect.height) / height;
  }
  return { x: 0, y: 0, width, height, planes, encoding: encodingAt(plan), alpha: null };
}

/** Whether a plan is the beginning of another. */
const isBefore = (first: Plan, plan: Plan): boolean =>
  first.head === plan.head &&
  placeKey(first) === placeKey(plan) &&
  first.steps.length <= plan.steps.length &&
  first.steps.every((step, i) => step === plan.steps[i]);

/** A copy of a part of a raster. */
function cutOut(raster: Raster, rect: Rect): Raster {
  const cut = (plane: Float32Array): Float32Array => {
    const out = new Float32Array(rect.width * rect.height);
    for (let row = 0; row < rect.height; row++) {
      const from = (rect.y + row) * raster.width + rect.x;
      out.set(plane.subarray(from, from + rect.width), row * rect.width);
    }
    return out;
  };
  return { ...rect, planes: raster.planes.map(cut), encoding: raster.encoding, alpha: null };
}

/** An analysis raster with its missing samples, and whose it is. */
export interface Analysed {
  readonly plan: Plan;
  readonly level: number;
  readonly raster: Raster;
}

/**
 * The analysis raster of a step whose upstream is `plan`: its input over the frame box-averaged to at most 1,048,576
 * pixels. Yields how much of it is done.
 * @param around what stands around its evaluation
 * @param known one of the same picture after fewer steps, from which it is computed
 */
export function* analysed(
  plan: Plan,
  around: Surroundings = alone(),
  known: Analysed | null = null
): Generator<number, Analysed, void> {
  const level = levelOfAtMost(plan, ANALYSIS_PIXELS);
  return { plan, level, raster: yield* wholeRaster(plan, level, around, known) };
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

/** RGB of the samples under squares of full-size pixels; missing ones and what lies beside the picture left out. */
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
 * Mean of RGB over a square of `size` full-size pixels about a place of the frame (pixel corners are whole
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
