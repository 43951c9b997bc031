import { isAllTones } from '$core/blend/limits';
import {
  actsOn,
  freeName,
  stepSchema,
  underNewIds,
  wayTo,
  type KrombaDocument,
  type Mask,
  type Picture,
  type Reference,
  type Step
} from '$core/document';
import { sourceKind } from '$core/mask/sources';
import { encodingAfter } from '$core/path/shape';
import type { FoundStar } from '$core/measure/star-find';
import { newId } from './names';
import { pinsForCopy } from './pins';
import type { Session } from './session.svelte';

/** Rings about stars over the picture. */
export interface Rings {
  readonly stars: readonly FoundStar[];
  /** How much wider than its star each is, in full-size pixels. */
  readonly grow: number;
}

type Masks = KrombaDocument['masks'];

/** The first source of a mask, or of one that it is made of, that would see another picture at another place of a path. */
function boundSource(mask: Mask, masks: Masks, named = false): string | null {
  for (const { source } of mask.terms) {
    const kind = sourceKind(source.kind);
    const used = kind.uses?.(source)?.used;
    if (used && 'mask' in used) {
      const other = masks.find(({ id }) => id === used.mask);
      const bound = other ? boundSource(other.mask, masks, true) : null;
      if (bound) return bound;
    } else if ((kind.sees || kind.solvedBy) && !used && (named || !kind.use)) return kind.title;
  }
  return null;
}

/** A mask whose sources see what they see at one place of a path wherever it is used. */
function maskSeeing(mask: Mask, of: Reference): Mask {
  const copy = structuredClone(mask);
  for (const { source } of copy.terms) {
    const kind = sourceKind(source.kind);
    if ((kind.sees || kind.solvedBy) && !kind.uses?.(source)) kind.use?.(source, of);
  }
  return copy;
}

/** Why the stars that a step takes out can't be laid over what is made of the rest just as strongly as they were taken; null where they can. */
export function stayApart({ masks }: Pick<KrombaDocument, 'masks'>, step: Step): string | null {
  const { mode, under, over } = step.blend;
  if (mode !== 'normal')
    return 'The step is blended in another way than “Normal”, so that its stars and the rest don’t add up.';
  if (!isAllTones(under) || !isAllTones(over))
    return 'The step is held to limits of tones, so that some of its stars stay: let a mask do that.';
  const { model, channels } = actsOn(step);
  if (model !== 'rgb' || channels.length < 3)
    return 'The step takes stars out of some channels alone: set On to R, G and B.';
  const bound = step.where && boundSource(step.where, masks);
  return bound
    ? `The mask has a term “${bound}”, which would see another picture at the end. A channel, a scale, stars, paint or a ramp can be laid there.`
    : null;
}

/**
 * Makes the pair of a step that takes stars out: a picture of the stars alone, by the same path up to it, and a step here that lays them
 * over what is made of the rest, where and as strongly as they were taken out: at the end, or before it is stretched where it is later;
 * added where it is linear, else by `screen`.
 */
export function takeStarsApart(session: Session, step: Step): void {
  const { picture, encodingOut: encoding } = session.cursor;
  const way = wayTo(picture.steps, step.id).map((one) => underNewIds(one, newId));
  const last = way.at(-1);
  if (!last || stayApart(session.document, step)) return;
  const before = picture.steps[picture.steps.indexOf(step) - 1] as Step | undefined;
  // Stars are taken whole there: what of them stays here is told by the step that brings them back.
  const whole = stepSchema.parse({ id: last.id, op: last.op, params: { ...last.params, keep: 'stars' } });
  const alone: Step = { ...whole, name: last.name };
  const size = stepSchema.parse({ id: newId('s'), op: 'levels', name: 'Size of the stars', params: {} });
  const name = freeName(session.document.pictures, `${picture.name}, stars`);
  const id = newId('p');
  const lay = stepSchema.parse({
    ...{ id: newId('s'), op: 'lay', name: 'Stars', params: { from: { picture: id } } },
    blend: { mode: encoding === 'linear' ? 'add' : 'screen', opacity: step.blend.opacity },
    where: step.where && maskSeeing(step.where, { picture: picture.id, after: before?.id ?? 'head' })
  });
  const pins = pinsForCopy(session.document.pins, picture.id, id);
  const made = session.change('Take the stars apart', (draft) => {
    const at = draft.pictures.findIndex((p) => p.id === picture.id);
    const steps = draft.pictures[at]?.steps as Step[] | undefined;
    if (!steps) return;
    const head = structuredClone(picture.head);
    draft.pictures.splice(at + 1, 0, {
      id,
      name,
      head,
      steps: [...way.slice(0, -1), alone, size]
    } as Picture);
    draft.pins.push(...pins);
    const from = steps.findIndex((one) => one.id === step.id) + 1;
    const other = steps.findIndex((one, i) => i >= from && encodingAfter([one], encoding) !== encoding);
    steps.splice(other < 0 ? steps.length : other, 0, lay);
  });
  if (made)
    session.notice = `“${name}” is a picture of this document now; the step “Stars” lays it over this one.`;
}
