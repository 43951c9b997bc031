import { findOp } from '../ops';
import { MOST_OF_A_KIND, MOST_PINS, type KrombaDocument, type Picture } from './document';
import { maskSchema } from './mask';
import { LONGEST_NAME, nameSchema } from './name';
import { pinSchema } from './pins';
import { reasonsOf } from './problem';
import { referenceProblem } from './references';
import { allSteps } from './places';
import { countSteps, MOST_STEPS, OUT_OF_ORDER, outOfOrder, stepSchema, type Step } from './step';

const quoted = (name: string): string => `“${name}”`;
const titleOf = ({ name, op }: Step): string => quoted(name ?? findOp(op)?.title ?? op);

/**
 * Why a document that was made of `before` would not be read again; null where it would. Looks only at what differs, so
 * that a slider may ask with each of its steps.
 */
export function changeProblem(before: KrombaDocument, after: KrombaDocument): string | null {
  return (
    tooMany(after) ??
    nameProblem(before, after) ??
    orderProblem(before, after) ??
    partProblem(before, after) ??
    lostEnd(before, after)
  );
}

function tooMany({ frames, pictures, masks, pins, tables }: KrombaDocument): string | null {
  for (const [what, list] of Object.entries({ frames, pictures, masks, tables }))
    if (list.length > MOST_OF_A_KIND) return `a document takes at most ${MOST_OF_A_KIND} ${what}`;
  if (pins.length > MOST_PINS) return `a document takes at most ${MOST_PINS} pins`;
  const long = pictures.find(({ steps }) => countSteps(steps) > MOST_STEPS);
  return long
    ? `the path of ${quoted(long.name)} would have ${countSteps(long.steps)} steps, and takes at most ${MOST_STEPS}`
    : null;
}

/** Those of a list that are not, as they are, in another. */
const fresh = <T>(now: readonly T[], then: readonly T[]): readonly T[] => {
  if (now === then) return [];
  const known = new Set(then);
  return now.filter((one) => !known.has(one));
};

function nameProblem(before: KrombaDocument, after: KrombaDocument): string | null {
  const named = [
    ...(before.name === after.name ? [] : [after.name]),
    ...(['frames', 'pictures', 'masks', 'tables'] as const).flatMap((list) =>
      fresh<{ readonly name: string }>(after[list], before[list]).map(({ name }) => name)
    )
  ];
  return named.every((name) => nameSchema.safeParse(name).success)
    ? null
    : `a name must have 1 to ${LONGEST_NAME} letters`;
}

const doubled = (list: readonly { readonly id: string }[]): boolean =>
  new Set(list.map(({ id }) => id)).size < list.length;

/** What stands twice, and steps that stand where they can't. */
function orderProblem(before: KrombaDocument, after: KrombaDocument): string | null {
  for (const list of ['frames', 'pictures', 'masks', 'pins', 'tables'] as const)
    if (after[list] !== before[list] && doubled(after[list]))
      return `one of the ${list} would be there twice`;
  for (const { name, steps } of fresh(after.pictures, before.pictures)) {
    if (doubled(allSteps(steps))) return `a step of ${quoted(name)} would be there twice`;
    const [at] = outOfOrder(steps);
    if (at !== undefined) return `${titleOf(steps[at])} ${OUT_OF_ORDER}`;
  }
  return null;
}

function partProblem(before: KrombaDocument, after: KrombaDocument): string | null {
  const known = new Map(before.pictures.map((picture) => [picture.id, picture]));
  const stepsOf = ({ id, steps }: Picture): readonly Step[] => fresh(steps, known.get(id)?.steps ?? []);
  for (const step of after.pictures.flatMap(stepsOf)) {
    const result = stepSchema.safeParse(step, { reportInput: true });
    if (!result.success) return `${titleOf(step)}: ${reasonsOf(result.error.issues)}`;
  }
  for (const { name, mask } of fresh(after.masks, before.masks)) {
    const result = maskSchema.safeParse(mask, { reportInput: true });
    if (!result.success) return `the mask ${quoted(name)}: ${reasonsOf(result.error.issues)}`;
  }
  for (const pin of fresh(after.pins, before.pins)) {
    const result = pinSchema.safeParse(pin, { reportInput: true });
    if (!result.success) return `the pin ${quoted(pin.name)}: ${reasonsOf(result.error.issues)}`;
  }
  return null;
}

function lostEnd(before: KrombaDocument, after: KrombaDocument): string | null {
  const pin = after.pins.find((n) => n.picture && !after.pictures.some((p) => p.id === n.picture));
  if (pin) return `the pin ${quoted(pin.name)} would belong to a picture that is not there`;
  const same = (['pictures', 'masks', 'tables'] as const).every((list) => after[list] === before[list]);
  return same ? null : (referenceProblem(after)?.message ?? null);
}
