import { stepKey, stepsTo, type Pin, type Place, type SourceStep } from '$core/document';
import type { SourceHead } from '$core/heads';
import type { View } from '$core/path/view';
import type { Geometry } from '$core/raster/geometry';

/** What a view shows: a picture at a place of its path; what comes into the step `hold` stays as it is for now. */
export interface Shown {
  readonly head: SourceHead;
  /** Pyramid levels of the head. */
  readonly levels: number;
  /** The whole path. */
  readonly steps: readonly SourceStep[];
  readonly at: Place;
  readonly hold: string | null;
  /** The picture's pins where a step is solved from them, otherwise none. */
  readonly pins: readonly Pin[];
  /** How the picture lies on its head. */
  readonly geometry: Geometry;
  readonly view: View;
  /** How many results over whole pictures had come in when it was to be drawn. */
  readonly round?: number;
}

/** What is shown, as a key. */
export const contentOf = ({ head, view, steps, at, pins, round }: Shown): string =>
  [head.key, JSON.stringify([view, pins, round]), ...(stepsTo(steps, at) ?? []).map(stepKey)].join('|');
