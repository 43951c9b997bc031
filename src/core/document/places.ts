import { opOf } from '../ops';
import type { SourceStep, Step } from './step';

/** A place in a path: what comes in, what comes into a step or goes out of it, or the end. */
export type Place = 'head' | 'end' | { readonly before: string } | { readonly after: string };

/** The steps inside a step; none where it is no group. */
export const insideOf = <S extends Step>(step: S): readonly S[] =>
  (opOf(step.op).inside?.(step.params) ?? []) as readonly SourceStep[] as readonly S[];

function wayThrough<S extends Step>(steps: readonly S[], id: string): S[] | null {
  for (const [i, step] of steps.entries()) {
    const before = steps.slice(0, i);
    if (step.id === id) return [...before, step];
    const within = wayThrough(insideOf(step), id);
    if (within) return [...before, ...within];
  }
  return null;
}

/**
 * The steps that lead to a place one after another, those that are off left out: what comes into a step inside a group has
 * gone through the steps before the group and those before it in the group. Null where there is no such step.
 */
export function stepsTo<S extends Step>(steps: readonly S[], place: Place): readonly S[] | null {
  const on = (some: readonly S[]): readonly S[] => some.filter(({ enabled }) => enabled);
  if (place === 'head') return [];
  if (place === 'end') return on(steps);
  const way = wayThrough(steps, 'before' in place ? place.before : place.after);
  if (!way) return null;
  return on('before' in place ? way.slice(0, -1) : way);
}

/** A step of a path, wherever it stands; undefined where there is none. */
export const findStep = <S extends Step>(steps: readonly S[], id: string): S | undefined =>
  wayThrough(steps, id)?.at(-1);

/** The steps that lead to what a reference names, also those that are off; none where there is no such place. */
export const wayTo = <S extends Step>(steps: readonly S[], after: string | undefined): readonly S[] =>
  after === undefined ? steps : after === 'head' ? [] : (wayThrough(steps, after) ?? []);

/** The list in which a step stands: the path's, or that of the group around it. Null where there is no such step. */
export function listAround<S extends Step>(steps: readonly S[], id: string): readonly S[] | null {
  if (steps.some((step) => step.id === id)) return steps;
  for (const step of steps) {
    const found = listAround(insideOf(step), id);
    if (found) return found;
  }
  return null;
}

/** The group around a step; undefined where it stands in the path itself, or nowhere. */
export const groupAround = <S extends Step>(steps: readonly S[], id: string): S | undefined =>
  allSteps(steps).find((step) => insideOf(step).some((one) => one.id === id));

/** A path with one of its steps replaced by another of the same id, wherever it stands. */
export const withStep = <S extends Step>(steps: readonly S[], step: S): readonly S[] =>
  steps.map((one) => {
    if (one.id === step.id) return step;
    const inside = insideOf(one);
    if (!findStep(inside, step.id)) return one;
    return { ...one, params: opOf(one.op).withInside!(one.params, withStep(inside, step)) as object };
  });

/** A path without one of its steps, wherever it stands. */
export const withoutStep = <S extends Step>(steps: readonly S[], id: string): readonly S[] =>
  steps.flatMap((one) => {
    if (one.id === id) return [];
    const inside = insideOf(one);
    if (!findStep(inside, id)) return [one];
    return [{ ...one, params: opOf(one.op).withInside!(one.params, withoutStep(inside, id)) as object }];
  });

/** All steps of a path, those inside others behind them. */
export const allSteps = <S extends Step>(steps: readonly S[]): S[] =>
  steps.flatMap((step) => [step, ...allSteps(insideOf(step))]);

/** The place that a reference names. */
export const placeOf = (after: string | undefined): Place =>
  after === undefined ? 'end' : after === 'head' ? 'head' : { after };

/** How many of the first steps of two lists are the same. */
export function commonSteps(a: readonly Step[], b: readonly Step[]): number {
  let count = 0;
  while (count < a.length && count < b.length && a[count] === b[count]) count++;
  return count;
}
