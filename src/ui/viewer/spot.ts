/** A place in the picture under the pointer, in full-size pixels. */
export interface Spot {
  readonly x: number;
  readonly y: number;
}
