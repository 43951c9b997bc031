import type { Trapezoid } from '../blend/limits';
import type { BlendMode } from '../blend/modes';
import { modelOf, type ColourModel } from '../colour';
import { actsOn, type Step } from '../document';
import { opOf, type Op } from '../ops';

/** A step made ready for its tiles. */
export interface PreparedStep {
  readonly op: Op;
  readonly coefficients: unknown;
  /** Full-size pixels around a pixel that its result depends on. */
  readonly reach: number;
  readonly on: ColourModel;
  /** Which of the model's channels are kept from the candidate; null for all of them. */
  readonly keeps: readonly boolean[] | null;
  readonly mode: BlendMode;
  readonly opacity: number;
  readonly under: Trapezoid;
  readonly over: Trapezoid;
}

/** The enabled steps, ready to be evaluated. */
export function prepareSteps(steps: readonly Step[]): PreparedStep[] {
  return steps.filter((step) => step.enabled).map(prepareStep);
}

function prepareStep(step: Step): PreparedStep {
  const op = opOf(step.op);
  const { model, channels } = actsOn(step);
  const on = modelOf(model);
  const keeps = on.channels.map((c) => channels.includes(c.letter));
  return {
    op,
    coefficients: op.prepare(step.params),
    reach: op.reach(step.params),
    on,
    keeps: keeps.every(Boolean) && on.planes === on.channels.length ? null : keeps,
    ...step.blend
  };
}
