import type { Encoding } from '../colour';
import { deltaE2000, labOf, type Lab } from './difference';

/** A colour read at a place of the picture. */
export interface ColourAt {
  readonly x: number;
  readonly y: number;
  /** In the picture's encoding. */
  readonly rgb: readonly number[];
}

/** One of a picture's main colours: the sample nearest to the middle of its group stands for it. */
export interface MainColour extends ColourAt {
  /** The part of the samples that are of it, 0…1. */
  readonly share: number;
}

/** What becomes of a main colour, in ΔE 2000. */
export interface Moved extends MainColour {
  readonly after: readonly number[];
  readonly by: number;
}

const MOST_COLOURS = 8;
const ROUNDS = 12;
/** Groups whose middles are nearer than this, in ΔE 1976, are one colour to the eye. */
const ALIKE = 8;

const squared = (a: Lab, b: Lab): number => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2;

const nearest = (of: Lab, middles: readonly Lab[]): number =>
  middles.reduce((best, middle, i) => (squared(of, middle) < squared(of, middles[best]) ? i : best), 0);

/**
 * The main colours of a picture, the most frequent first: k-means in LAB (Lloyd 1982), begun with samples as far from each other as
 * can be (Gonzalez 1985), so that a small thing of a colour of its own is one of them.
 * @returns at most 8; none of no samples
 */
export function mainColours(samples: readonly ColourAt[], encoding: Encoding): MainColour[] {
  if (samples.length === 0) return [];
  const labs = samples.map(({ rgb }) => labOf(rgb, encoding));
  const mean = [0, 1, 2].map((c) => labs.reduce((sum, lab) => sum + lab[c], 0) / labs.length);
  let middles: Lab[] = [labs[nearest(mean as unknown as Lab, labs)]];
  while (middles.length < MOST_COLOURS) {
    const distances = labs.map((lab) => squared(lab, middles[nearest(lab, middles)]));
    const far = distances.reduce((best, d, i) => (d > distances[best] ? i : best), 0);
    if (distances[far] < ALIKE ** 2) break;
    middles.push(labs[far]);
  }
  let groups: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    groups = labs.map((lab) => nearest(lab, middles));
    middles = middles.map((middle, g) => {
      const own = labs.filter((_, i) => groups[i] === g);
      if (own.length === 0) return middle;
      return [0, 1, 2].map((c) => own.reduce((sum, lab) => sum + lab[c], 0) / own.length) as unknown as Lab;
    });
  }
  return middles
    .flatMap((middle, g): MainColour[] => {
      const own = labs.flatMap((lab, i) => (groups[i] === g ? [{ lab, i }] : []));
      if (own.length === 0) return [];
      const { i } =
        own[
          nearest(
            middle,
            own.map(({ lab }) => lab)
          )
        ];
      return [{ ...samples[i], share: own.length / samples.length }];
    })
    .sort((a, b) => b.share - a.share);
}

/** How far a change moves each of the colours, the furthest first. */
export const movedBy = (
  colours: readonly MainColour[],
  change: (rgb: readonly number[]) => readonly number[],
  encoding: Encoding
): Moved[] =>
  colours
    .map((colour) => {
      const after = change(colour.rgb);
      return { ...colour, after, by: deltaE2000(labOf(colour.rgb, encoding), labOf(after, encoding)) };
    })
    .sort((a, b) => b.by - a.by);

/** The mean over the picture: each colour counts as much as there is of it. */
export const meanMove = (moved: readonly Moved[]): number =>
  moved.reduce((sum, { by, share }) => sum + by * share, 0) /
  moved.reduce((sum, { share }) => sum + share, 0);
