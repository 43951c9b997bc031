import { headKind } from '../heads';
import { anyOp } from '../ops';
import type { KrombaDocument, Picture } from './document';
import { sourceKind } from '../mask/sources';
import type { Reference, Used } from './ids';
import type { Mask } from './mask';

export type { Used } from './ids';
import { allSteps, placeOf, stepsTo, wayTo } from './places';
import { shortened } from './problem';
import type { Step } from './step';

type Document = Pick<KrombaDocument, 'pictures' | 'masks' | 'tables'>;
type Path = readonly PropertyKey[];
interface Found {
  readonly path: Path;
  readonly used: Used;
}

/** What the terms of a mask refer to. */
export function usedByMask(mask: Mask, at: Path = []): Found[] {
  return mask.terms.flatMap(({ source }, t): Found[] => {
    const path = [...at, 'terms', t, 'source'];
    const found = sourceKind(source.kind).uses?.(source);
    return found ? [{ path: [...path, found.key], used: found.used }] : [];
  });
}

/** What a step refers to: in its mask, in what its op takes from elsewhere, and in the steps inside it. */
export function usedByStep(step: Step, at: Path = []): Found[] {
  const op = anyOp(step.op);
  const taken = op?.takes?.(step.params) ?? [];
  const inside = op?.inside?.(step.params) ?? [];
  return [
    ...(step.where ? usedByMask(step.where, [...at, 'where']) : []),
    ...taken.flatMap((what): Found[] =>
      'mask' in what
        ? usedByMask(what.mask, [...at, 'params'])
        : [{ path: [...at, 'params'], used: 'table' in what ? what : what.picture }]
    ),
    ...inside.flatMap((one, s) => usedByStep(one, [...at, 'params', 'steps', s]))
  ];
}

const usedByHead = ({ head }: Picture, at: Path): Found[] =>
  headKind(head.kind)
    .uses(head)
    .map((used) => ({ path: [...at, 'head'], used }));

const quoted = (name: string): string => `“${shortened(name)}”`;

/**
 * What is wrong with the references of a document: one that leads nowhere, or a circle, told with the names in it.
 * Null where all is well. Steps that are off count as well.
 */
export function referenceProblem(document: Document): { path: PropertyKey[]; message: string } | null {
  const { pictures, masks } = document;
  const everything = [
    ...pictures.flatMap((picture, p) => [
      ...usedByHead(picture, ['pictures', p]),
      ...picture.steps.flatMap((step, s) => usedByStep(step, ['pictures', p, 'steps', s]))
    ]),
    ...masks.flatMap(({ mask }, m) => usedByMask(mask, ['masks', m, 'mask']))
  ];
  for (const { path, used } of everything) {
    const message = leadsNowhere(document, used);
    if (message) return { path: [...path], message };
  }
  const wrong = wrongOrder(document);
  return wrong && { path: [wrong.masksOnly ? 'masks' : 'pictures'], message: wrong.message };
}

function leadsNowhere({ pictures, masks, tables }: Document, used: Used): string | null {
  if ('table' in used) {
    return tables.some((t) => t.id === used.table)
      ? null
      : `there is no table ${quoted(used.table)} in the document`;
  }
  if ('mask' in used) {
    return masks.some((m) => m.id === used.mask)
      ? null
      : `there is no mask ${quoted(used.mask)} in the document`;
  }
  const picture = pictures.find((p) => p.id === used.picture);
  if (!picture) return `there is no picture ${quoted(used.picture)} in the document`;
  return stepsTo(picture.steps, placeOf(used.after)) === null
    ? `the picture ${quoted(picture.name)} has no step ${quoted(used.after ?? '')}`
    : null;
}

/** What may be made out of others. */
type Made = Exclude<Used, { readonly table: string }>;

/** What others may depend on: a picture at a place of its path, or a named mask. */
interface Needed {
  readonly key: string;
  readonly name: string;
  /** Its picture; null for a mask. */
  readonly picture: string | null;
  needs(): Needed[];
}

/** A place that is being looked at, and which of those it needs comes next. */
interface Visit {
  readonly place: Needed;
  readonly needs: readonly Needed[];
  next: number;
  /** How many pictures and masks stand one behind the other below it. */
  depth: number;
}

/** Pictures and masks that may stand one behind the other: what is computed goes through all of them. */
const DEEPEST = 64;

/** What is wrong with how pictures and masks need each other, found by going through each once; null where nothing is. */
function wrongOrder(document: Document): { masksOnly: boolean; message: string } | null {
  const { pictures, masks } = document;
  const depths = new Map<string, number>();
  const roots = [
    ...pictures.map((picture) => pictureAt(document, picture, picture.steps)),
    ...masks.map(({ id }) => whereOf(document, { mask: id }))
  ];
  for (const root of roots) {
    if (depths.has(root.key)) continue;
    const trail: Visit[] = [{ place: root, needs: root.needs(), next: 0, depth: 0 }];
    const onTrail = new Map([[root.key, 0]]);
    while (trail.length > 0) {
      const visit = trail[trail.length - 1];
      const next = visit.needs[visit.next++];
      if (!next) {
        trail.pop();
        onTrail.delete(visit.place.key);
        depths.set(visit.place.key, visit.depth);
        if (visit.depth > DEEPEST) {
          const message = `more than ${DEEPEST} pictures or masks are made one out of the other, down from ${visit.place.name}`;
          return { masksOnly: visit.place.picture === null, message };
        }
      } else {
        const from = onTrail.get(next.key);
        if (from !== undefined) return circle([...trail.slice(from).map((v) => v.place), next]);
        if (!depths.has(next.key)) {
          onTrail.set(next.key, trail.length);
          trail.push({ place: next, needs: next.needs(), next: 0, depth: 0 });
          visit.next--;
          continue;
        }
        const same = next.picture !== null && next.picture === visit.place.picture;
        visit.depth = Math.max(visit.depth, depths.get(next.key)! + (same ? 0 : 1));
      }
    }
  }
  return null;
}

const MOST_IN_CIRCLE = 6;

function circle(places: readonly Needed[]): { masksOnly: boolean; message: string } {
  const names = places.map((p) => p.name).filter((name, i, all) => i === 0 || name !== all[i - 1]);
  const told = names.length > 1 ? names : [names[0], names[0]];
  const shown =
    told.length > MOST_IN_CIRCLE
      ? [...told.slice(0, MOST_IN_CIRCLE - 2), `${told.length - MOST_IN_CIRCLE + 1} more`, ...told.slice(-1)]
      : told;
  const masksOnly = places.every((p) => p.picture === null);
  return {
    masksOnly,
    message: `${masksOnly ? 'masks' : 'pictures'} refer to each other in a circle: ${shown.join(' → ')}`
  };
}

function whereOf(document: Document, used: Made): Needed {
  if ('mask' in used) {
    const { id, name, mask } = document.masks.find((m) => m.id === used.mask)!;
    return {
      key: `m ${id}`,
      name: quoted(name),
      picture: null,
      needs: () => usedByMask(mask).map((f) => whereOf(document, f.used as Made))
    };
  }
  const picture = document.pictures.find((p) => p.id === used.picture)!;
  // Steps that are off count as well.
  const all = wayTo(picture.steps, used.after);
  return pictureAt(document, picture, all);
}

/** A picture after some steps, the last of which stands for all of them. */
function pictureAt(document: Document, picture: Picture, steps: readonly Step[]): Needed {
  const last = steps.at(-1);
  const needed = (found: readonly Found[]): Needed[] =>
    found.flatMap(({ used }) => ('table' in used ? [] : [whereOf(document, used)]));
  return {
    key: `p ${picture.id} ${last?.id ?? ''}`,
    name: quoted(picture.name),
    picture: picture.id,
    needs: () =>
      last
        ? [pictureAt(document, picture, steps.slice(0, -1)), ...needed(usedByStep(last))]
        : needed(usedByHead(picture, []))
  };
}

/** Whether a reference means the thing asked about: a picture at any place, or at the one step that is named. */
const means = (used: Used, asked: Used): boolean =>
  'table' in asked
    ? 'table' in used && used.table === asked.table
    : 'mask' in asked
      ? 'mask' in used && used.mask === asked.mask
      : 'picture' in used &&
        used.picture === asked.picture &&
        (asked.after === undefined || used.after === asked.after);

/** Who refers to a picture, a step (`after`) of a picture, or a named mask, in words for a person. */
export function usersOf({ pictures, masks }: Document, asked: Used): string[] {
  const users = pictures.flatMap((picture) => [
    ...(usedByHead(picture, []).some((f) => means(f.used, asked))
      ? [`the picture ${quoted(picture.name)}`]
      : []),
    ...picture.steps
      .filter((step) => usedByStep(step).some((f) => means(f.used, asked)))
      .map((step) => `the step ${quoted(step.name ?? anyOp(step.op)!.title)} of ${quoted(picture.name)}`)
  ]);
  const others = masks.filter(({ mask }) => usedByMask(mask).some((f) => means(f.used, asked)));
  return [...users, ...others.map(({ name }) => `the mask ${quoted(name)}`)];
}

/**
 * Makes everything that refers to `asked` refer to `by` instead, in place; with null, takes out the terms that are made
 * from it and lets steps go without.
 */
export function replaceUses(document: Document, asked: Used, by: Used | null): void {
  const inMask = (mask: Mask): void => {
    for (let t = mask.terms.length - 1; t >= 0; t--) {
      const [found] = usedByMask({ ...mask, terms: [mask.terms[t]] });
      if (!found || !means(found.used, asked)) continue;
      const { source } = mask.terms[t];
      const isMask = 'mask' in found.used;
      if (by && 'mask' in by === isMask) sourceKind(source.kind).use!(source, by);
      else mask.terms.splice(t, 1);
    }
  };
  const inParams = (params: {
    from?: Reference | null;
    to?: Reference | string | null;
    table?: string | null;
    stack?: { from?: Reference; where?: Mask | null }[];
  }): void => {
    const next = by && 'picture' in by ? { ...by } : null;
    if (params.from && means(params.from, asked)) params.from = next;
    if (typeof params.to === 'object' && params.to && means(params.to, asked)) params.to = next;
    if (params.table && means({ table: params.table }, asked))
      params.table = by && 'table' in by ? by.table : null;
    for (const entry of params.stack ?? []) {
      if (entry.where) inMask(entry.where);
      if (!entry.from || !means(entry.from, asked)) continue;
      if (next) entry.from = next;
      else delete entry.from;
    }
  };
  for (const step of document.pictures.flatMap(({ steps }) => allSteps(steps))) {
    if (step.where) inMask(step.where);
    if (anyOp(step.op)?.takes) inParams(step.params as Parameters<typeof inParams>[0]);
  }
  document.masks.forEach(({ mask }) => inMask(mask));
}
