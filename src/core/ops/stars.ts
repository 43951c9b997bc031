import { z } from 'zod';
import { bandsOfLayers } from '../measure/noise-curve';
import {
  risesIn,
  starAbout,
  starBands,
  starsAmong,
  type FoundStar,
  type FoundStars,
  type Profile
} from '../measure/star-find';
import { lightOfBand, lightOfBands, starLight, type KnownLight, type LightPart } from '../measure/star-light';
import type { Rect } from '../raster/raster';
import { sameSamples } from '../kernels/compare';
import { fillDiscs, fillReach, outsideOf, type Disc } from '../spatial/fill-discs';
import { shown } from './controls';
import { pixels, places, said } from './fields';
import { starFields } from './star-fields';
import { defineOp, defineStage, type Asked, type Solving } from './op';

const params = z.strictObject({
  keep: z.enum(['rest', 'stars']).default('rest'),
  ...starFields,
  /** How much further than its light is seen each is taken out. */
  grow: pixels(0, 50)
    .register(shown, { label: 'grow by', unit: 'px', slider: [0, 15], step: 0.5, digits: 1 })
    .default(2),
  /** Places of stars that were not found, and of finds that stay. */
  added: places,
  removed: places
});
export type StarsParams = z.infer<typeof params>;

export interface StarsSolution {
  readonly stars: readonly FoundStar[];
  /** So many fainter ones stay, since more were found than are taken. */
  readonly more: number;
}
interface StarsNeed {
  readonly threshold: number;
  readonly largest: number;
  readonly added: StarsParams['added'];
  readonly removed: StarsParams['removed'];
}
interface StarsCoefficients {
  readonly discs: readonly Disc[];
  readonly keep: StarsParams['keep'];
  /** Radius of the largest disc. */
  readonly widest: number;
  readonly found: StarsSolution;
}

/** A disc is grown by at least so many samples of a level, so that a star goes whole from a small one. */
const LEAST_GROWN = 1;

/**
 * What is left of a sample without its star, so that it and the star add up to the very sample in floats: where they can't (it is far
 * darker than what would stand there), it stays.
 */
export function restOf(sample: number, filled: number): number {
  const rest = Math.fround(sample - Math.fround(sample - filled));
  return Math.fround(rest + Math.fround(sample - rest)) === sample ? rest : sample;
}

/** Places in 64ths of a pixel, so that a disc covers the very same samples in every part of the picture and at every level. */
const placed = (star: FoundStar): FoundStar => {
  const [x, y] = [star.x, star.y].map((v) => Math.round(v * 64) / 64);
  return { ...star, x, y };
};

/** Bands are given out so many at a time: each has rows beside it that its neighbours read as well. */
const AT_ONCE = 2;

const lightStage = defineStage<StarsNeed, Rect, LightPart, KnownLight>({
  parts: (_, size) => bandsOfLayers(size),
  // eslint-disable-next-line require-yield
  *part(_, { region }, band) {
    return lightOfBand(band, region);
  },
  together: (_, found) => lightOfBands(found)
});

const findStage = defineStage<StarsNeed, readonly number[], readonly Profile[], FoundStars>({
  parts(_, size) {
    const bands = starBands(size);
    return bands.flatMap((_top, k) => (k % AT_ONCE === 0 ? [bands.slice(k, k + AT_ONCE)] : []));
  },
  part: (how, { size, region }, tops, [light]) =>
    risesIn(tops, size, starLight(light as KnownLight, region), how),
  together: (_, found) => starsAmong(found.flat())
});

/** Takes stars out, or all but the stars. */
export const stars = defineOp<StarsParams, StarsCoefficients, StarsSolution, StarsNeed>({
  id: 'stars',
  title: 'Stars apart',
  purpose: 'Finds the stars and takes them out, or keeps them alone',
  words: ['star removal', 'starless', 'remove stars', 'nebula', 'astro', 'point sources'],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  byPlace: true,
  reach: ({ largest, grow }, scale, prepared) =>
    prepared && prepared.discs.length === 0
      ? 0
      : fillReach((prepared ? prepared.widest : largest + grow) * scale + LEAST_GROWN),
  settles: () => true,
  sentence: ({ keep, threshold, largest }) =>
    `${keep === 'rest' ? 'Without' : 'Only'} the stars over ${said(threshold)} σ, up to ${said(largest)} px`,
  needs: ({ threshold, largest, added, removed }) => ({ threshold, largest, added, removed }),
  stages: [lightStage, findStage],
  // eslint-disable-next-line require-yield
  *solve({ added, removed, ...how }, { size, region }: Asked, stages): Solving<StarsSolution> {
    const [known, found] = stages as [KnownLight, FoundStars];
    const light = starLight(known, region);
    const stays = (star: FoundStar): boolean =>
      removed.some(([x, y]) => Math.hypot(star.x - x, star.y - y) <= Math.max(3, star.radius));
    const byHand = added.map(
      ([x, y]): FoundStar =>
        starAbout(size, light, [x, y], how.largest) ?? { x, y, radius: BY_HAND, height: 0 }
    );
    return {
      stars: [...found.stars.filter((star) => !stays(star)), ...byHand].map(placed),
      more: found.more
    };
  },
  prepare({ keep, grow }, _, solution) {
    const found = solution ?? { stars: [], more: 0 };
    const discs = found.stars.map(({ x, y, radius }) => ({ x, y, radius: radius + grow }));
    const widest = discs.reduce((most, { radius }) => Math.max(most, radius), 0);
    return { discs, keep, widest, found };
  },
  solved: ({ found }) => found,
  kernel(source, { discs, keep }, out) {
    const { x, y, width, height, scale } = source;
    const n = width * height;
    const near = discs
      .map((disc) => ({
        x: disc.x * scale - x,
        y: disc.y * scale - y,
        radius: Math.max(disc.radius * scale, disc.radius * scale * 0.5 + LEAST_GROWN)
      }))
      .filter(
        (disc) =>
          disc.x > -disc.radius &&
          disc.y > -disc.radius &&
          disc.x < width + disc.radius &&
          disc.y < height + disc.radius
      );
    const known = outsideOf(near, source);
    // Not in the kernels' memory, where what reads single samples is slow. The channels of a grey picture are one.
    const first = source.planes.map((plane) =>
      source.planes.findIndex((other) => sameSamples(other, plane, n))
    );
    const taken = source.planes.map((plane) => plane.slice(0, n));
    const own = [...new Set(first)];
    for (const c of own) {
      if (keep === 'rest') out[c].set(taken[c]);
      else out[c].fill(0, 0, n);
      // What is missing is missing among the stars as well.
      if (source.present) for (let i = 0; i < n; i++) if (taken[c][i] !== taken[c][i]) out[c][i] = Number.NaN;
    }
    const put = (plane: number, i: number, filled: number): void => {
      const c = own[plane];
      const v = taken[c][i];
      if (v !== v) return;
      const rest = restOf(v, filled);
      out[c][i] = keep === 'rest' ? rest : v - rest;
    };
    fillDiscs(
      own.map((c) => taken[c]),
      source,
      near,
      known,
      put,
      source.goOn
    );
    first.forEach((like, c) => {
      if (like < c) out[c].set(out[like].subarray(0, n));
    });
  }
});
/** The radius of a star that was set by hand where none was found. */
const BY_HAND = 6;
