import type { Point } from '$core/raster/geometry';

/** A place in the picture under the pointer, in full-size pixels of the picture, and where it lies on the frame. */
export interface Spot {
  readonly x: number;
  readonly y: number;
  /** Middle of that pixel on the frame; pixel corners are whole numbers. */
  readonly onFrame: Point;
}
