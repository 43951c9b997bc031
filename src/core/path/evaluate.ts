import { closeArena, openArena } from '../kernels/arena';
import { readRegion } from '../raster/frame';
import { readTurned } from '../raster/turned';
import { copied, crop, grow, takeRaster, type Raster, type Rect } from '../raster/raster';
import { applyStep, type KeptMasks } from './apply';
import { planSize, type Plan, type PreparedStep } from './plan';

/** Where an evaluation may begin: the raster after the first `steps` steps, over all that the rest will need. */
export interface Held {
  readonly steps: number;
  readonly raster: Raster;
  /** Masks of the step that comes next, over this raster. */
  readonly masks?: KeptMasks;
}

/** Samples around a region at `level` that `steps` need of their input. */
export const margin = (steps: readonly PreparedStep[], level: number): number =>
  steps.reduce((sum, { reach }) => sum + reach(2 ** -level), 0);

/** The rectangle after the first `begin` steps that the result over `rect` depends on. */
export function neededRect(plan: Plan, begin: number, level: number, rect: Rect): Rect {
  const { width, height } = planSize(plan, level);
  return grow(rect, margin(plan.steps.slice(begin), level), width, height);
}

/** What stands around an evaluation. */
export interface Surroundings {
  /** Gives a picture beside a step over a rectangle of a level. */
  readonly besideOf: (plan: Plan, level: number, rect: Rect) => Raster;
  /** Called before each step; what it throws ends the evaluation. */
  readonly goOn: () => void;
}

/** Nothing is kept for long: a picture that stands beside several steps is computed once for one evaluation. */
export function alone(goOn: () => void = () => undefined): Surroundings {
  const known = new Map<Plan, Map<string, Raster>>();
  const surroundings: Surroundings = {
    besideOf: (plan, level, rect) => {
      const rasters = known.get(plan) ?? new Map<string, Raster>();
      known.set(plan, rasters);
      const key = [level, rect.x, rect.y, rect.width, rect.height].join();
      const raster = rasters.get(key) ?? withEvaluated(plan, level, rect, null, copied, surroundings);
      rasters.set(key, raster);
      return raster;
    },
    goOn
  };
  return surroundings;
}

/** Planes that an evaluation may need at once: base, candidate, two sets of a model, amounts, samples going out. */
const PLANES = 24;
/** Further planes for each step that looks at its neighbours, whose result is cut out of its input. */
const PLANES_A_CUT = 4;
/** Further planes where a step has masks: the channels and terms they are made of. */
const PLANES_MASKED = 20;
/** Where the arena would grow larger than this, planes are ordinary arrays. */
const LARGEST_ARENA = 640 * 2 ** 20;

/**
 * Computes the picture of `plan` over `rect`, in pixels of pyramid level `level` (0: full size), and hands it to
 * `use`; the raster is gone when that returns. The result does not depend on how a picture is cut into regions.
 * @param held a raster to begin from; it is not written to
 */
export function withEvaluated<T>(
  plan: Plan,
  level: number,
  rect: Rect,
  held: Held | null,
  use: (raster: Raster) => T,
  { besideOf, goOn }: Surroundings = alone()
): T {
  const { frame, steps } = plan;
  const { width, height } = planSize(plan, level);
  const begin = held?.steps ?? 0;
  const needed = held ? held.raster : neededRect(plan, 0, level, rect);
  const cuts = Math.min(4, steps.slice(begin).filter((step) => step.reach(2 ** -level) > 0).length);
  const coming = steps.slice(begin);
  const masked = coming.some(({ where, taken }) => where || taken.length > 0);
  const count = PLANES + PLANES_A_CUT * cuts + (masked ? PLANES_MASKED : 0);
  const bytes = needed.width * needed.height * 4 * count;
  // What lies beside is computed first: each is an evaluation of its own.
  const after = (i: number): Rect => grow(rect, margin(steps.slice(i + 1), level), width, height);
  const beside = coming.map((step, i) =>
    step.beside.map((other) => besideOf(other, level, i === 0 ? needed : after(begin + i - 1)))
  );
  const mark = openArena(Math.min(bytes, LARGEST_ARENA));
  try {
    let raster = takeRaster(needed, frame.alpha);
    if (held) {
      held.raster.planes.forEach((plane, c) => raster.planes[c].set(plane));
      if (held.raster.alpha) raster.alpha?.set(held.raster.alpha);
    } else if (plan.plain) readRegion(frame, level, raster);
    else readTurned(frame, plan.geometry, level, raster, plan.beyond);
    for (let i = begin; i < steps.length; i++) {
      goOn();
      const part = after(i);
      const masks = i === begin ? held?.masks : undefined;
      const place = { level, needed: part, beside: beside[i - begin], masks };
      applyStep(raster, steps[i], place, plan.mayMiss);
      raster = crop(raster, part);
    }
    return use(crop(raster, rect));
  } finally {
    closeArena(mark);
  }
}

/** The same as `withEvaluated`, as a raster that stays. */
export function evaluate(plan: Plan, level: number, rect: Rect, held: Held | null = null): Raster {
  return withEvaluated(plan, level, rect, held, copied);
}
