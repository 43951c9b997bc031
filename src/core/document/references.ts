import { anyOp } from '../ops';
import type { KrombaDocument, Picture } from './document';
import type { Mask, Reference } from './mask';
import type { Step } from './step';

/** Something that a document's parts refer to: a picture, at one place of its path or anywhere, or a named mask. */
export type Used = { readonly picture: string; readonly after?: string } | { readonly mask: string };

type Document = Pick<KrombaDocument, 'pictures' | 'masks'>;
type Path = readonly PropertyKey[];
interface Found {
  readonly path: Path;
  readonly used: Used;
}

/** What the terms of a mask refer to. */
export function usedByMask(mask: Mask, at: Path = []): Found[] {
  return mask.terms.flatMap(({ source }, t): Found[] => {
    const path = [...at, 'terms', t, 'source'];
    if (source.kind === 'mask') return [{ path: [...path, 'id'], used: { mask: source.id } }];
    return source.kind === 'channel' && source.of ? [{ path: [...path, 'of'], used: source.of }] : [];
  });
}

/** What a step refers to: in its mask, and in what its op takes from elsewhere. */
export function usedByStep(step: Step, at: Path = []): Found[] {
  const taken = anyOp(step.op)?.takes?.(step.params) ?? [];
  return [
    ...(step.where ? usedByMask(step.where, [...at, 'where']) : []),
    ...taken.flatMap((what): Found[] =>
      'mask' in what
        ? usedByMask(what.mask, [...at, 'params'])
        : [{ path: [...at, 'params'], used: what.picture }]
    )
  ];
}

function usedByHead({ head }: Picture, at: Path): Found[] {
  if (head.kind === 'frame') return [];
  const parts: Reference[] =
    head.kind === 'average'
      ? head.of
      : [head.r, head.g, head.b, head.l ?? []].flat().map((part) => part.from);
  return parts.map((used) => ({ path: [...at, 'head'], used }));
}

const named = (name: string): string => `“${name}”`;

/** How many of a picture's steps lead to the place a reference names; null where there is no such step. */
export function stepsThrough(picture: Picture, after: string | undefined): number | null {
  if (after === undefined) return picture.steps.length;
  if (after === 'head') return 0;
  const at = picture.steps.findIndex((s) => s.id === after);
  return at < 0 ? null : at + 1;
}

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
  const circle = findCircle(document);
  if (!circle) return null;
  const masksOnly = circle.every((name) => masks.some((m) => named(m.name) === name));
  return {
    path: [masksOnly ? 'masks' : 'pictures'],
    message: `${masksOnly ? 'masks' : 'pictures'} refer to each other in a circle: ${circle.join(' → ')}`
  };
}

function leadsNowhere({ pictures, masks }: Document, used: Used): string | null {
  if ('mask' in used) {
    return masks.some((m) => m.id === used.mask) ? null : `there is no mask “${used.mask}” in the document`;
  }
  const picture = pictures.find((p) => p.id === used.picture);
  if (!picture) return `there is no picture “${used.picture}” in the document`;
  return stepsThrough(picture, used.after) === null
    ? `the picture “${picture.name}” has no step “${used.after}”`
    : null;
}

/** A place that others may depend on: a picture after so many steps, or a named mask. */
interface Place {
  readonly key: string;
  readonly name: string;
  needs(): Place[];
}

/** Names that lead back to the first of them, or null. */
function findCircle({ pictures, masks }: Document): string[] | null {
  const placeOf = (used: Used): Place => {
    if ('mask' in used) {
      const { id, name, mask } = masks.find((m) => m.id === used.mask)!;
      return { key: `m ${id}`, name: named(name), needs: () => usedByMask(mask).map((f) => placeOf(f.used)) };
    }
    const picture = pictures.find((p) => p.id === used.picture)!;
    return pictureAt(picture, stepsThrough(picture, used.after)!);
  };
  const pictureAt = (picture: Picture, count: number): Place => ({
    key: `p ${picture.id} ${count}`,
    name: named(picture.name),
    needs: () =>
      count === 0
        ? usedByHead(picture, []).map((f) => placeOf(f.used))
        : [pictureAt(picture, count - 1), ...usedByStep(picture.steps[count - 1]).map((f) => placeOf(f.used))]
  });
  const done = new Set<string>();
  const visit = (place: Place, trail: readonly Place[]): string[] | null => {
    const from = trail.findIndex((p) => p.key === place.key);
    if (from >= 0) {
      const names = [...trail.slice(from), place].map((p) => p.name);
      const told = names.filter((name, i) => i === 0 || name !== names[i - 1]);
      return told.length > 1 ? told : [told[0], told[0]];
    }
    if (done.has(place.key)) return null;
    for (const next of place.needs()) {
      const found = visit(next, [...trail, place]);
      if (found) return found;
    }
    done.add(place.key);
    return null;
  };
  for (const picture of pictures) {
    const found = visit(pictureAt(picture, picture.steps.length), []);
    if (found) return found;
  }
  for (const { id } of masks) {
    const found = visit(placeOf({ mask: id }), []);
    if (found) return found;
  }
  return null;
}

/** Whether a reference means the thing asked about: a picture at any place, or at the one step that is named. */
const means = (used: Used, asked: Used): boolean =>
  'mask' in asked
    ? 'mask' in used && used.mask === asked.mask
    : 'picture' in used &&
      used.picture === asked.picture &&
      (asked.after === undefined || used.after === asked.after);

/** Who refers to a picture, a step (`after`) of a picture, or a named mask, in words for a person. */
export function usersOf({ pictures, masks }: Document, asked: Used): string[] {
  const users = pictures.flatMap((picture) => [
    ...(usedByHead(picture, []).some((f) => means(f.used, asked))
      ? [`the picture ${named(picture.name)}`]
      : []),
    ...picture.steps
      .filter((step) => usedByStep(step).some((f) => means(f.used, asked)))
      .map((step) => `the step ${named(step.name ?? anyOp(step.op)!.title)} of ${named(picture.name)}`)
  ]);
  const others = masks.filter(({ mask }) => usedByMask(mask).some((f) => means(f.used, asked)));
  return [...users, ...others.map(({ name }) => `the mask ${named(name)}`)];
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
      if (source.kind === 'mask' && by && 'mask' in by) source.id = by.mask;
      else if (source.kind === 'channel' && by && 'picture' in by) source.of = { ...by };
      else mask.terms.splice(t, 1);
    }
  };
  const inParams = (params: {
    from?: Reference | null;
    stack?: { from?: Reference; where?: Mask | null }[];
  }): void => {
    const next = by && 'picture' in by ? { ...by } : null;
    if (params.from && means(params.from, asked)) params.from = next;
    for (const entry of params.stack ?? []) {
      if (entry.where) inMask(entry.where);
      if (!entry.from || !means(entry.from, asked)) continue;
      if (next) entry.from = next;
      else delete entry.from;
    }
  };
  for (const { steps } of document.pictures) {
    for (const step of steps) {
      if (step.where) inMask(step.where);
      if (anyOp(step.op)?.takes) inParams(step.params as Parameters<typeof inParams>[0]);
    }
  }
  document.masks.forEach(({ mask }) => inMask(mask));
}
