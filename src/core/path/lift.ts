import { skyOf, type Sky } from '../measure/sky';
import { liftedPlanes, type Lift } from '../ops/lifting';
import { middleFor } from '../ops/stretch';
import type { Raster } from '../raster/raster';
import { inBands, levelOfAtMost } from './analysis';
import { evaluate } from './evaluate';
import { encodingAt, planSize, type Plan } from './plan';

export type { Lift } from '../ops/lifting';

export type LiftBy = 'lifted' | 'more';
/** Black so many median absolute deviations below the sky, and what the sky is shown at. */
const LIFTS: Record<LiftBy, { below: number; target: number }> = {
  lifted: { below: 5, target: 0.14 },
  more: { below: 2.5, target: 0.3 }
};
const MAD_A_SIGMA = 1 / 1.4826;
/** Samples from which the sky is taken for the eye. */
const LOOKED_AT = 2 ** 18;

/** The sky of each channel, as the view needs it: from a small level. */
export function skiesOf(plan: Plan): readonly Sky[] {
  const level = levelOfAtMost(plan, LOOKED_AT);
  const { width, height } = planSize(plan, level);
  const planes = [0, 1, 2].map(() => new Float32Array(width * height));
  inBands(
    plan,
    level,
    ({ planes: band, y, height: rows }) =>
      band.forEach((plane, c) => planes[c].set(plane.subarray(0, width * rows), y * width)),
    (rect, use) => use(evaluate(plan, level, rect))
  );
  return planes.map((plane) => skyOf(plane));
}

/** Whether the channels of a picture are the same, sample for sample, in a small level of it. */
export function isGrey(plan: Plan): boolean {
  const level = levelOfAtMost(plan, LOOKED_AT);
  let same = true;
  inBands(
    plan,
    level,
    ({ planes: [r, g, b], width, height }) => {
      for (let i = 0; same && i < width * height; i++) same = Object.is(r[i], g[i]) && Object.is(r[i], b[i]);
    },
    (rect, use) => {
      if (same) use(evaluate(plan, level, rect));
    }
  );
  return same;
}

/** A sky that is darker than this, as light, is seen as nothing. */
const DARK = 0.02;
export const isDark = (skies: readonly Sky[]): boolean => skies.every(({ level }) => level < DARK);

/** The lift of a picture that is looked at by itself: none where it can be seen. */
export function ownLift(plan: Plan): Lift | null {
  if (encodingAt(plan) === 'coded') return null;
  const skies = skiesOf(plan);
  return isDark(skies) ? liftFor(skies, 'lifted', true) : null;
}

/** @param together one for all channels, so that colours are seen as they are; else each by its own sky */
export function liftFor(skies: readonly Sky[], by: LiftBy, together: boolean): Lift {
  const { below, target } = LIFTS[by];
  const lifts = skies.map(({ level, sigma }) => {
    const black = level - below * sigma * MAD_A_SIGMA;
    return { black, level };
  });
  const used = together
    ? lifts.map(() => ({
        black: Math.min(...lifts.map(({ black }) => black)),
        level: lifts.reduce((sum, { level }) => sum + level, 0) / lifts.length
      }))
    : lifts;
  return {
    black: used.map(({ black }) => black),
    middle: used.map(({ black, level }) => {
      const v = (level - black) / (1 - black);
      return v > 0 && v < 1 ? middleFor(v, target) : 0.5;
    })
  };
}

/** The raster as it is seen, within the kernels' room; a coded one stays as it is. */
export function lifted(raster: Raster, lift: Lift): Raster {
  if (raster.encoding === 'coded') return raster;
  const planes = liftedPlanes(raster.planes, lift, raster.width * raster.height);
  return { ...raster, planes, encoding: 'coded' };
}
