import type { Rect } from '../raster/raster';

/** What a plane lies over: a rectangle whose upper left sample stands at x, y of its pyramid level. */
export interface Field extends Rect {
  /** The part of it whose result is asked for, in samples from its own upper left; the rest is margin. */
  readonly needed: Rect;
  /** 1 where a sample is there and 0 where it is missing; left out where all are there. Filters leave missing ones out. */
  readonly present?: Float32Array;
}

/** All of a rectangle asked for. */
export const wholeField = (rect: Rect): Field => ({
  ...rect,
  needed: { x: 0, y: 0, width: rect.width, height: rect.height }
});
