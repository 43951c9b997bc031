import { readRegion, type Frame } from '../raster/frame';
import { closeArena, openArena } from '../kernels/arena';
import { crop, grow, takeRaster, type Raster, type Rect } from '../raster/raster';
import { applyStep } from './apply';
import type { PreparedStep } from './prepare';

/** Where an evaluation may begin: the raster after the first `steps` steps, over all that the rest will need. */
export interface Held {
  readonly steps: number;
  readonly raster: Raster;
}

/** Pixels around a region at `level` that `steps` need of their input. */
const margin = (steps: readonly PreparedStep[], level: number): number =>
  steps.reduce((sum, { reach }) => sum + Math.ceil(reach / 2 ** level), 0);

/** The rectangle of the input that the result of `steps` over `rect` depends on. */
export function neededRect(frame: Frame, steps: readonly PreparedStep[], level: number, rect: Rect): Rect {
  const { width, height } = frame.levels[level];
  return grow(rect, margin(steps, level), width, height);
}

/** Planes that an evaluation may need at once: base, candidate, two sets of a model, amounts, samples going out. */
const PLANES = 28;
/** Further planes for each step that looks at its neighbours, whose result is cut out of its input. */
const PLANES_A_CUT = 4;

/**
 * Computes the picture after `steps` over `rect`, in pixels of pyramid level `level` (0: full size), and hands it to
 * `use`; the raster is gone when that returns. The result does not depend on how a picture is cut into regions.
 * @param held a raster to begin from; it is not written to
 */
export function withEvaluated<T>(
  frame: Frame,
  steps: readonly PreparedStep[],
  level: number,
  rect: Rect,
  held: Held | null,
  use: (raster: Raster) => T
): T {
  const { width, height } = frame.levels[level];
  const begin = held?.steps ?? 0;
  const needed = held ? held.raster : neededRect(frame, steps, level, rect);
  const cuts = steps.filter((step) => step.reach > 0).length;
  const mark = openArena(needed.width * needed.height * 4 * (PLANES + PLANES_A_CUT * cuts));
  try {
    let raster = takeRaster(needed, frame.alpha);
    if (held) {
      held.raster.planes.forEach((plane, c) => raster.planes[c].set(plane));
      if (held.raster.alpha) raster.alpha?.set(held.raster.alpha);
    } else readRegion(frame, level, raster);
    for (let i = begin; i < steps.length; i++) {
      applyStep(raster, steps[i]);
      raster = crop(raster, grow(rect, margin(steps.slice(i + 1), level), width, height));
    }
    return use(crop(raster, rect));
  } finally {
    closeArena(mark);
  }
}

/** The same as `withEvaluated`, as a raster that stays. */
export const evaluate = (
  frame: Frame,
  steps: readonly PreparedStep[],
  level: number,
  rect: Rect,
  held: Held | null = null
): Raster => withEvaluated(frame, steps, level, rect, held, kept);

/** A copy outside the arena. */
const kept = (raster: Raster): Raster => ({
  ...raster,
  planes: raster.planes.map((p) => p.slice()),
  alpha: raster.alpha && raster.alpha.slice()
});
