import { inRoom } from '../kernels/arena';
import { readRegion } from '../raster/frame';
import { readTurned, turnedWindow } from '../raster/turned';
import { copied, crop, grow, takeRaster, type Raster, type Rect } from '../raster/raster';
import { applySteps, margin, type Beside, type KeptMasks, type Progress } from './apply';
import { encodingAt, planSize, type Plan, type PreparedStep } from './plan';
import { lastSettled, type Settled } from './settled';

/** Where an evaluation may begin: the raster after the first `steps` steps, over all that the rest will need. */
export interface Held {
  readonly steps: number;
  readonly raster: Raster;
  /** Masks of the step that comes next, over this raster. */
  readonly masks?: KeptMasks;
}

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
  /** Results that are there over the whole picture: an evaluation begins from the last of them. */
  readonly settled?: Settled;
}

/** Nothing is kept for long: a picture that stands beside several steps is computed once for one evaluation. */
export function alone(goOn: () => void = () => undefined, settled?: Settled): Surroundings {
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
    goOn,
    settled
  };
  return surroundings;
}

/** Planes that an evaluation may need at once: base, candidate, two sets of a model, amounts, samples going out. */
const PLANES = 24;
/** Further planes for each step that looks at its neighbours, whose result is cut out of its input. */
const PLANES_A_CUT = 4;
/** So many such steps are reckoned with. */
const MOST_CUTS = 4;
/** Further planes where a step has masks: the channels and terms they are made of; and once more where they see pictures stretched. */
const PLANES_MASKED = 20;

function planesOf(steps: readonly PreparedStep[], level: number): number {
  const cuts = Math.min(MOST_CUTS, steps.filter((step) => step.reach(2 ** -level) > 0).length);
  const masked = steps.some(({ where, taken }) => where || taken.length > 0);
  const stretched = steps.some(
    ({ where, taken }) => where?.stretched || taken.some(({ mask }) => mask?.stretched)
  );
  const inside = steps.map((step) => (step.inside.length > 0 ? planesOf(step.inside, level) : 0));
  return (
    PLANES +
    PLANES_A_CUT * cuts +
    PLANES_MASKED * (Number(masked) + Number(stretched)) +
    Math.max(0, ...inside)
  );
}

/** What lies beside some steps, each over the rectangle that it is put on: `first`, then what the rest needs of `rect`. */
function besideOfSteps(
  steps: readonly PreparedStep[],
  level: number,
  first: Rect,
  rect: Rect,
  size: { readonly width: number; readonly height: number },
  besideOf: Surroundings['besideOf']
): Beside[] {
  const after = (i: number): Rect => grow(rect, margin(steps.slice(i + 1), level), size.width, size.height);
  return steps.map((step, i) => {
    const over = i === 0 ? first : after(i - 1);
    return {
      pictures: step.beside.map((other) => besideOf(other, level, over)),
      inside: besideOfSteps(step.inside, level, over, after(i), size, besideOf)
    };
  });
}

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
  { besideOf, goOn, settled }: Surroundings = alone()
): T {
  const { head } = plan;
  const size = planSize(plan, level);
  const whole = settled ? lastSettled(plan, settled, held?.steps ?? 0) : null;
  if (whole) held = null;
  const begin = whole?.steps ?? held?.steps ?? 0;
  const steps = plan.steps.slice(begin);
  const needed = held ? held.raster : neededRect(plan, begin, level, rect);
  const bytes = needed.width * needed.height * 4 * planesOf(steps, level);
  // What lies beside is computed first: each is an evaluation of its own.
  const beside = besideOfSteps(steps, level, needed, rect, size, besideOf);
  const window =
    held || whole ? null : plan.plain ? needed : turnedWindow(head, plan.geometry, level, needed);
  const parts = window ? head.beside.map((other) => besideOf(other, level, window)) : [];
  return inRoom(() => {
    const encoding = encodingAt(plan, begin);
    const raster = takeRaster(needed, { alpha: head.alpha, encoding });
    if (held) {
      held.raster.planes.forEach((plane, c) => raster.planes[c].set(plane));
      if (held.raster.alpha) raster.alpha?.set(held.raster.alpha);
    } else if (whole) readRegion(whole.frame, level, raster);
    else if (plan.plain) head.read(level, raster, parts);
    else {
      const read = (source: Raster): void => head.read(level, source, parts);
      readTurned(head, plan.geometry, level, raster, window!, read, plan.beyond);
    }
    const progress: Progress = { goOn, mayMiss: plan.mayMiss, masks: held?.masks };
    return use(crop(applySteps(raster, steps, level, rect, size, beside, progress), rect));
  }, bytes);
}

/** The same as `withEvaluated`, as a raster that stays. */
export function evaluate(plan: Plan, level: number, rect: Rect, held: Held | null = null): Raster {
  return withEvaluated(plan, level, rect, held, copied);
}
