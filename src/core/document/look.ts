import { opOf } from '../ops';
import type { Encoding } from '../colour';
import { beginsFrom } from '../heads';
import { parseDocument, type KrombaDocument, type Look, type NamedMask, type Picture } from './document';
import type { Used } from './ids';
import type { Mask } from './mask';
import { freeNames } from './name';
import { usedByMask, usedByStep, replaceUses } from './references';
import { allSteps, insideOf, wayTo } from './places';
import { titleOf, type Step } from './step';
import { whyBound } from '../mask/shape';

/** Steps that are to travel as a look, and what does not travel with them. */
export interface Travelling {
  readonly look: Look;
  /** What is left out or may lie otherwise elsewhere, in words for a person. */
  readonly told: readonly string[];
}

type Document = Pick<KrombaDocument, 'pictures' | 'masks' | 'tables'>;

const quoted = (name: string): string => `“${name}”`;
const copy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** The named masks that steps are made with, those that these are made of with them. */
function masksOf(document: Document, steps: readonly Step[]): NamedMask[] {
  const found = new Map<string, NamedMask>();
  const take = (used: Used): void => {
    if (!('mask' in used) || found.has(used.mask)) return;
    const mask = document.masks.find(({ id }) => id === used.mask);
    if (!mask) return;
    found.set(mask.id, mask);
    usedByMask(mask.mask).forEach((f) => take(f.used));
  };
  steps.flatMap((step) => usedByStep(step)).forEach((f) => take(f.used));
  return [...found.values()];
}

const usedBy = (steps: readonly Step[], masks: readonly NamedMask[]): Used[] =>
  [...steps.flatMap((step) => usedByStep(step)), ...masks.flatMap(({ mask }) => usedByMask(mask))].map(
    (f) => f.used
  );

/** The tables among what is used, as a look holds them. */
const tablesIn = (document: Document, used: readonly Used[]): Pick<Look, 'tables'> => {
  const tables = document.tables.filter(({ id }) => used.some((u) => 'table' in u && u.table === id));
  return tables.length > 0 ? { tables: copy(tables) } : {};
};

/** Steps without those that do nothing, where they did something before. */
const withoutIdle = (steps: readonly Step[], was: readonly Step[]): Step[] =>
  steps.flatMap((step, i): Step[] => {
    const { idle, inside, withInside } = opOf(step.op);
    if (inside && withInside) {
      const within = withoutIdle(insideOf(step), insideOf(was[i]));
      return [{ ...step, params: withInside(step.params, within) as object }];
    }
    return idle?.(step.params) && !idle(was[i].params) ? [] : [step];
  });

/** Steps of a document as text that can be put into this one again and into others, with the masks and tables they are made with. */
export const stepsAsText = (document: Document, name: string, steps: readonly Step[]): string => {
  const masks = masksOf(document, steps);
  return JSON.stringify({
    ...{ kromba: 1, kind: 'look', name, steps },
    ...(masks.length > 0 ? { masks } : {}),
    ...tablesIn(document, usedBy(steps, masks))
  });
};

/**
 * Makes a look of steps of a document: named masks and tables are written into it; what is taken from other pictures is left
 * out, and told.
 */
export function lookOf(
  document: Document,
  steps: readonly Step[],
  { name, note }: { readonly name: string; readonly note?: string }
): Travelling {
  const masks = copy(masksOf(document, steps));
  const own = {
    pictures: [{ id: '', name: '', head: { kind: 'frame', frame: '' }, steps: copy([...steps]) }],
    masks,
    tables: []
  } as unknown as Document;
  const used = usedBy(steps, masks);
  const takers = steps.filter((step) => usedByStep(step).some((f) => 'picture' in f.used)).map(titleOf);
  for (const one of used) if ('picture' in one) replaceUses(own, one, null);
  const hadMask = new Set(allSteps(steps).flatMap(({ id, where }) => (where?.terms.length ? [id] : [])));
  const everywhere = allSteps(own.pictures[0].steps).filter(
    ({ id, where }) => hadMask.has(id) && !where?.terms.length
  );
  const left = withoutIdle(own.pictures[0].steps, steps);
  const bound = allSteps(left).flatMap((step) => (step.where ? whyBound(step.where, true) : []));
  const inMasks = masks.flatMap(({ mask }) => whyBound(mask, true));
  const places = [...new Set([...bound, ...inMasks])].filter((why) => why !== 'another picture');
  const told = [
    ...takers.map((title) => `${quoted(title)} takes from another picture: that is left out.`),
    ...everywhere.map(
      (step) =>
        `The mask of ${quoted(titleOf(step))} is made of another picture alone: without it, the step acts everywhere.`
    ),
    ...(masks.length > 0
      ? [
          `The ${masks.length > 1 ? 'masks' : 'mask'} ${masks.map((m) => quoted(m.name)).join(', ')} ${masks.length > 1 ? 'go' : 'goes'} with it.`
        ]
      : []),
    ...(places.length > 0
      ? [`A mask is bound to its picture by ${places.join(', ')}: it will lie elsewhere as it lies here.`]
      : [])
  ];
  const look: Look = {
    ...{ kromba: 1, kind: 'look', name, steps: left },
    ...(note ? { note } : {}),
    ...(masks.length > 0 ? { masks } : {}),
    ...tablesIn(document, used)
  };
  return { look, told };
}

/** All steps that make a picture: a version has those of the picture that it begins from before its own. */
export function wholePath(
  document: Pick<KrombaDocument, 'pictures'>,
  { head, steps }: Pick<Picture, 'head' | 'steps'>
): readonly Step[] {
  const from = beginsFrom(head);
  const origin = from && document.pictures.find(({ id }) => id === from.picture);
  if (!origin) return steps;
  const before = wholePath(document, { head: origin.head, steps: [] });
  return [...before, ...wayTo(origin.steps, from.after), ...steps];
}

/** What a mask is made of, whatever the ids of the named ones in it. */
function contentOf(mask: Mask, masks: readonly NamedMask[]): string {
  const terms = mask.terms.map((term) => {
    const { source } = term;
    const named = source.kind === 'mask' ? masks.find(({ id }) => id === source.id) : undefined;
    return named ? { ...term, source: contentOf(named.mask, masks) } : term;
  });
  return JSON.stringify({ ...mask, terms });
}

/** Has the named masks of a look be masks of the document, under ids of their own; those that it has already are used. */
function takeMasks(document: KrombaDocument, own: KrombaDocument, newId: Naming['newId']): void {
  const kept = own.masks.map(({ mask }) => {
    const content = contentOf(mask, own.masks);
    return document.masks.find((m) => contentOf(m.mask, document.masks) === content);
  });
  // By ids that neither has: the look's may be those of other masks of the document.
  const between = own.masks.map(({ id }) => {
    const next = newId('m');
    replaceUses(own, { mask: id }, { mask: next });
    return next;
  });
  const named = freeNames(document.masks);
  own.masks.forEach((mask, i) => {
    const same = kept[i];
    if (same) replaceUses(own, { mask: between[i] }, { mask: same.id });
    else document.masks.push({ ...mask, id: between[i], name: named(mask.name) });
  });
}

/**
 * A document of one picture with a look on it, on a frame of the id `frame`.
 * @throws DocumentError where a step takes from what a look does not hold
 */
export const documentOf = (
  look: Look,
  { file, encoding }: { readonly file: string; readonly encoding: Encoding }
): KrombaDocument =>
  parseDocument({
    ...{ kromba: 1, kind: 'document', name: look.name },
    frames: [{ id: 'frame', name: 'frame', file, encoding }],
    pictures: [{ id: 'p', name: look.name, head: { kind: 'frame', frame: 'frame' }, steps: look.steps }],
    masks: look.masks ?? [],
    tables: look.tables ?? []
  });

/** New ids for what a look brings into a document. */
export interface Naming {
  newId(kind: 's' | 'm'): string;
  /** The id that a table of the look has in the document. */
  tableId(id: string): string;
}

/** A step, and those inside it, under ids of their own. */
export function underNewIds(step: Step, newId: Naming['newId']): Step {
  const named = { ...step, id: newId('s') };
  const { withInside } = opOf(step.op);
  const inside = insideOf(step).map((one) => underNewIds(one, newId));
  return withInside ? { ...named, params: withInside(step.params, inside) as object } : named;
}

/**
 * The steps of a look as they can stand in a document: under new ids, its named masks those of the document, to which they are
 * added where it has none such.
 */
export function bringSteps(document: KrombaDocument, look: Look, { newId, tableId }: Naming): Step[] {
  const own = {
    pictures: [{ id: '', name: '', head: { kind: 'frame', frame: '' }, steps: copy(look.steps) }],
    masks: copy(look.masks ?? []),
    tables: []
  } as unknown as KrombaDocument;
  for (const { id } of look.tables ?? []) replaceUses(own, { table: id }, { table: tableId(id) });
  takeMasks(document, own, newId);
  return own.pictures[0].steps.map((step) => underNewIds(step, newId));
}

/** Steps that move pixels, and the others. */
const parted = (steps: readonly Step[]): { readonly moving: Step[]; readonly others: Step[] } => ({
  moving: steps.filter(({ op }) => opOf(op).kind === 'geometry'),
  others: steps.filter(({ op }) => opOf(op).kind !== 'geometry')
});

/** Steps as one that fades them together. */
const faded = (id: string, name: string, steps: readonly Step[], strength: number): Step => ({
  ...{ id, op: 'group', name: name.slice(0, 200), enabled: true, params: { steps }, where: null },
  blend: {
    mode: 'normal',
    opacity: strength,
    under: [0, 0, 1, 1],
    over: [0, 0, 1, 1]
  } as Step['blend']
});

const WEAKER = 'strength';

/** How strongly a look is on that `atStrength` made, 0…1; 1 for every other. */
export function strengthIn({ name, steps }: Look): number {
  const last = steps.at(-1);
  const whole = last?.op === 'group' && last.id.startsWith(WEAKER) && last.name === name.slice(0, 200);
  return whole ? last.blend.opacity : 1;
}

/** A look that is as much weaker: all of it but what moves pixels, as one group. @param strength 0…1 */
export function atStrength(look: Look, strength: number): Look {
  const { moving, others } = parted(look.steps);
  if (strength === 1 || others.length === 0) return look;
  const taken = new Set(allSteps(look.steps).map(({ id }) => id));
  let id = WEAKER;
  while (taken.has(id)) id += '-';
  return { ...look, steps: [...moving, faded(id, look.name, others, strength)] };
}

/**
 * Puts a look on a picture of a document, in place: steps that move pixels behind those that do so, the others as a group at the end.
 * Named masks of the look that are not in the document yet become its own.
 * @returns the id of the group; null where the look only moves pixels
 */
export function putOn(
  document: KrombaDocument,
  pictureId: string,
  look: Look,
  strength: number,
  { newId, tableId }: Naming
): string | null {
  const picture = document.pictures.find(({ id }) => id === pictureId);
  if (!picture) return null;
  const steps = bringSteps(document, look, { newId, tableId });
  const { moving, others } = parted(steps);
  const list = picture.steps as Step[];
  list.splice(list.filter(({ op }) => opOf(op).kind === 'geometry').length, 0, ...moving);
  if (others.length === 0) return null;
  const id = newId('s');
  list.push(faded(id, look.name, others, strength));
  return id;
}
