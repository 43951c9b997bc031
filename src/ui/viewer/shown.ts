import { stepKey, stepsTo, type Pin, type Place, type SourceStep } from '$core/document';
import type { SourceHead } from '$core/heads';
import type { DifferenceView } from '$core/path/differing';
import type { Lift } from '$core/path/lift';
import type { View } from '$core/path/view';
import type { PictureAt, Seen } from '$engine/jobs';
import type { Geometry } from '$core/raster/geometry';

/** How far a picture is from another. */
export interface Difference extends DifferenceView {
  /** The very same object for as long as it stays the same: it goes to a worker once. */
  readonly other: PictureAt;
}

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
  /** Another picture, of which the difference is shown in the place of a view, and how. */
  readonly minus?: Difference | null;
  /** How it is lifted for the eye, where it is linear. */
  readonly lift?: Lift | null;
  /** How many results over whole pictures had come in when it was to be drawn. */
  readonly round?: number;
}

/** What of it is seen, as workers are asked for it. */
export const seenOf = ({ view, minus, lift }: Shown): Seen =>
  minus ? { view: { by: minus.by, times: minus.times }, other: minus.other } : { view, lift };

/** What is shown, as a key. */
export const contentOf = ({ head, view, minus, lift, steps, at, pins, round }: Shown): string =>
  [
    placeKey({ head, steps, at, pins }),
    JSON.stringify([view, round, lift ?? null]),
    ...(minus ? [minus.by, minus.times, placeKey(minus.other)] : [])
  ].join('|');

const placeKey = ({ head, steps, at = 'end', pins }: PictureAt): string =>
  [head.key, JSON.stringify(pins), ...(stepsTo(steps, at) ?? []).map(stepKey)].join('|');
