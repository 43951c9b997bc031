import type { Rect } from '../raster/raster';

/** What a plane lies over: a rectangle whose upper left sample stands at x, y of its pyramid level. */
export interface Field extends Rect {
  /** The part of it whose result is asked for, in samples from its own upper left; the rest is margin. */
  readonly needed: Rect;
}

/** All of a rectangle asked for. */
export const wholeField = (rect: Rect): Field => ({
  ...rect,
  needed: { x: 0, y: 0, width: rect.width, height: rect.height }
});
