import { z } from 'zod';
import { isAllTones } from '$core/blend/limits';
import {
  allSteps,
  bringSteps,
  findStep,
  groupAround,
  insideOf,
  listAround,
  parseLook,
  stepSchema,
  titleOf,
  underNewIds,
  wayTo,
  type Picture,
  type Step
} from '$core/document';
import type { Recipe } from '$core/document/history';
import { whyBound } from '$core/mask/shape';
import { findOp, opOf } from '$core/ops';
import type { TintStop } from '$core/ops/tint';
import { newId } from './names';
import type { Session } from './session.svelte';

export const isMoving = ({ op }: { op: string }): boolean => findOp(op)?.kind === 'geometry';

/** What a new step of some ops begins with, where the plain default is not what a person would reach for first. */
const beginnings: Readonly<Record<string, Partial<Step>>> = {
  sharpen: { on: { model: 'lab', channels: ['l'] } },
  local: { on: { model: 'lab', channels: ['l'] } },
  scales: { on: { model: 'lab', channels: ['l'] } },
  deconvolve: { on: { model: 'lab', channels: ['l'] }, params: { rings: 1 } },
  denoise: { on: { model: 'lab', channels: ['l', 'a', 'b'] }, params: { strength: { l: 1, a: 1, b: 1 } } },
  smooth: { on: { model: 'lab', channels: ['a', 'b'] } },
  detail: { blend: { mode: 'luminosity', opacity: 1, under: [0, 0, 1, 1], over: [0, 0, 1, 1] } },
  channel: { blend: { mode: 'luminosity', opacity: 1, under: [0, 0, 1, 1], over: [0, 0, 1, 1] } }
};

/** Where a step may stand: those that move pixels before all others. */
function placeFor(steps: readonly Step[], op: string, wanted: number): number {
  const moving = steps.filter(isMoving).length;
  return isMoving({ op }) ? Math.min(wanted, moving) : Math.max(wanted, moving);
}

/** Changes the list in which a step stands; that of the path itself where none is named. */
function changeList(
  session: Session,
  label: string,
  of: string | null,
  change: (steps: Step[]) => void,
  { picture = session.cursor.picture.id, first }: { readonly picture?: string; readonly first?: Recipe } = {}
): boolean {
  return session.change(label, (draft) => {
    first?.(draft);
    const steps = draft.pictures.find((p) => p.id === picture)?.steps as Step[] | undefined;
    const list = steps && (of === null ? steps : listAround(steps, of));
    if (list) change(list as Step[]);
  });
}

/** The step that another is to stand behind, in its picture; the beginning of the path where none is named. */
export interface Behind {
  readonly picture: string;
  readonly step: string | null;
}

/** Where a new step goes: behind another, in the list in which that stands; at the end of its path where it is gone. */
function placeBehind(
  { document, cursor }: Session,
  wanted: Behind = { picture: cursor.picture.id, step: cursor.step?.id ?? null }
): { picture: Picture; of: string | null; at: number } | null {
  const picture = document.pictures.find(({ id }) => id === wanted.picture);
  if (!picture) return null;
  const { steps } = picture;
  if (wanted.step === null) return { picture, of: null, at: 0 };
  const list = listAround(steps, wanted.step);
  if (!list) return { picture, of: null, at: steps.length };
  return { picture, of: wanted.step, at: list.findIndex(({ id }) => id === wanted.step) + 1 };
}

/** Steps that are offered beside the ops: an op that is set for a job. */
export interface Preset {
  readonly id: string;
  readonly title: string;
  readonly purpose: string;
  readonly words: readonly string[];
  readonly op: string;
  readonly step: object;
  /** It begins with a brush in the hand. */
  readonly painted?: true;
}

/** Cool shadows and warm lights: a gradient over the tones to begin with. */
export const firstStops = [
  { at: 0, rgb: [0.05, 0.05, 0.09] },
  { at: 0.5, rgb: [0.5, 0.45, 0.4] },
  { at: 1, rgb: [1, 0.97, 0.9] }
] satisfies TintStop[];

const painted = { terms: [{ source: { kind: 'paint', strokes: [] }, combine: 'add' }] };
export const presets: readonly Preset[] = [
  {
    id: 'two-tones',
    title: 'Two tones',
    purpose: 'Colours shadows and lights by a gradient over the tones',
    words: ['duotone', 'split toning', 'split', 'toning'],
    op: 'tint',
    step: { name: 'Two tones', params: { stops: firstStops } }
  },
  {
    id: 'lighten',
    title: 'Lighten by hand',
    purpose: 'Shifts the balance of light: brighter wherever it is painted',
    words: ['dodge', 'brighter', 'brush', 'paint', 'local exposure', 'relight'],
    op: 'levels',
    painted: true,
    step: { name: 'Lighten by hand', params: { channels: { all: { mid: 1.5 } } }, where: painted }
  },
  {
    id: 'darken',
    title: 'Darken by hand',
    purpose: 'Shifts the balance of light: darker wherever it is painted',
    words: ['burn', 'darker', 'brush', 'paint', 'dark edges', 'local exposure'],
    op: 'levels',
    painted: true,
    step: { name: 'Darken by hand', params: { channels: { all: { mid: 0.68 } } }, where: painted }
  }
];

/** A new step of `op`, set to its beginning where nothing else is said. @throws ZodError */
export const stepOf = (op: string, more: object = beginnings[op] ?? {}): Step =>
  stepSchema.parse({ id: newId('s'), op, params: {}, ...more });

/**
 * Puts new steps of one kind behind another, the selected one where none is named, and selects the last where its picture
 * is shown.
 * @param first what is done to the document before that, in the same change
 * @returns whether it was made; the refusal says why not
 */
export function addSteps(
  session: Session,
  label: string,
  steps: readonly Step[],
  { behind, first }: { readonly behind?: Behind; readonly first?: Recipe } = {}
): boolean {
  const place = placeBehind(session, behind);
  if (!place) {
    session.refusal = 'The picture that this was for is not in the document any more';
    return false;
  }
  const { picture, of, at } = place;
  const [{ op }] = steps;
  // What moves pixels stands in the path itself.
  const inPath = isMoving({ op }) && of !== null && groupAround(picture.steps, of) !== undefined;
  const put = (list: Step[]): void =>
    void list.splice(placeFor(list, op, inPath ? list.length : at), 0, ...steps);
  const made = changeList(session, label, inPath ? null : of, put, { picture: picture.id, first });
  if (made && picture.id === session.cursor.picture.id) session.select(steps.at(-1)!.id);
  return made;
}

/** Puts a step of `op` behind the selected one, and selects it. */
export const addStep = (session: Session, op: string, more?: object): void =>
  void addSteps(session, `Add ${opOf(op).title.toLowerCase()}`, [stepOf(op, more)]);

/**
 * Takes a step out of the path and selects the one before it.
 * @param first what is done to the document before that, in the same change
 */
export function removeStep(session: Session, step: Step, first?: Recipe): void {
  const { steps } = session.cursor.picture;
  const before = wayTo(steps, step.id).at(-2) ?? groupAround(steps, step.id);
  const remove = (list: Step[]): void => {
    const at = list.findIndex(({ id }) => id === step.id);
    if (at >= 0) list.splice(at, 1);
  };
  if (changeList(session, 'Remove a step', step.id, remove, { first })) session.select(before?.id ?? null);
}

export function duplicateStep(session: Session, step: Step): void {
  const copy = underNewIds(step, newId);
  const duplicate = (list: Step[]): void =>
    void list.splice(list.findIndex(({ id }) => id === step.id) + 1, 0, copy);
  if (changeList(session, 'Duplicate a step', step.id, duplicate)) session.select(copy.id);
}

/** Changes one step of the path, wherever it stands. */
function changeOne(session: Session, label: string, step: Step, change: (step: Step) => void): void {
  changeList(session, label, step.id, (list) => {
    const found = list.find((s) => s.id === step.id);
    if (found) change(found);
  });
}

export function renameStep(session: Session, step: Step, name: string): void {
  const trimmed = name.trim().slice(0, 200);
  changeOne(session, 'Rename a step', step, (found) => {
    if (trimmed) found.name = trimmed;
    else delete found.name;
  });
}

export const toggleStep = (session: Session, step: Step): void =>
  changeOne(
    session,
    step.enabled ? 'Switch a step off' : 'Switch a step on',
    step,
    (found) => (found.enabled = !step.enabled)
  );

/** Puts the steps of a list in the order of `ids`; those that move pixels stay in front. */
export function orderSteps(session: Session, ids: readonly string[]): void {
  const list = ids.length > 0 ? listAround(session.cursor.picture.steps, ids[0]) : null;
  if (!list) return;
  const ordered = ids.flatMap((id) => list.filter((s) => s.id === id));
  const next = [...ordered.filter(isMoving), ...ordered.filter((s) => !isMoving(s))];
  if (next.length !== list.length || next.every((s, i) => s === list[i])) return;
  changeList(session, 'Move a step', ids[0], (draft) => {
    const by = new Map(draft.map((s) => [s.id, s]));
    draft.splice(0, draft.length, ...next.map((s) => by.get(s.id)!));
  });
}

/**
 * Moves a step into another list, to a place in it.
 * @param group whose list that is; null for the path itself
 */
export function moveInto(session: Session, id: string, group: string | null, at: number): void {
  const { steps } = session.cursor.picture;
  const step = findStep(steps, id);
  // A group can't stand inside itself.
  if (!step || (group !== null && findStep([step], group))) return;
  changeList(session, 'Move a step', null, (path) => {
    const from = listAround(path, id) as Step[];
    const [moved] = from.splice(
      from.findIndex((s) => s.id === id),
      1
    );
    const around = group === null ? undefined : findStep(path, group);
    const list = (around ? insideOf(around) : path) as Step[];
    list.splice(placeFor(list, moved.op, at), 0, moved);
  });
}

/** Moves a step one place towards the head or the end; at the end of a group, out of it. */
export function moveStep(session: Session, step: Step, by: 1 | -1): void {
  const { steps } = session.cursor.picture;
  const ids = (listAround(steps, step.id) ?? []).map((s) => s.id);
  const at = ids.indexOf(step.id);
  const to = at + by;
  if (to >= 0 && to < ids.length) {
    [ids[at], ids[to]] = [ids[to], ids[at]];
    orderSteps(session, ids);
    return;
  }
  const group = groupAround(steps, step.id);
  if (!group) return;
  const list = listAround(steps, group.id) ?? [];
  const outer = groupAround(steps, group.id)?.id ?? null;
  moveInto(session, step.id, outer, list.indexOf(group) + (by > 0 ? 1 : 0));
}

/** The steps of one list from one to another, both with it; the first alone where they stand in different lists. */
export function stepsBetween(steps: readonly Step[], one: string, other: string | null): readonly Step[] {
  const list = listAround(steps, one) ?? [];
  const ends = [one, other ?? one].map((id) => list.findIndex((s) => s.id === id));
  if (ends[1] < 0) return list.slice(ends[0], ends[0] + 1);
  return list.slice(Math.min(...ends), Math.max(...ends) + 1);
}

/** Folds steps that follow each other into a group, which is then selected. */
export function groupSteps(session: Session, chosen: readonly Step[]): void {
  if (chosen.length === 0) return;
  const moving = chosen.find(isMoving);
  if (moving) {
    session.refusal = `“${titleOf(moving)}” moves pixels and can’t stand inside a group`;
    return;
  }
  const group = stepSchema.parse({ id: newId('s'), op: 'group', params: { steps: chosen } });
  const label = chosen.length > 1 ? `Group ${chosen.length} steps` : 'Group a step';
  const made = changeList(session, label, chosen[0].id, (list) => {
    list.splice(
      list.findIndex((s) => s.id === chosen[0].id),
      chosen.length,
      group
    );
  });
  if (made) session.select(group.id);
}

/** Puts the steps of a group in its place. */
export function takeApart(session: Session, group: Step): void {
  const inside = insideOf(group);
  const { mode, opacity, under, over } = group.blend;
  const plain = mode === 'normal' && opacity === 1 && isAllTones(under) && isAllTones(over);
  const made = changeList(session, 'Take a group apart', group.id, (list) => {
    list.splice(
      list.findIndex((s) => s.id === group.id),
      1,
      ...inside
    );
  });
  if (!made) return;
  session.select(inside.at(-1)?.id ?? null);
  if (!plain || group.where || group.on || !group.enabled)
    session.notice = `What “${titleOf(group)}” had of its own is gone with it: opacity, limits, mask. Undo brings it back.`;
}

/** The steps whose chips stand in the row, in their order: those inside a group where it is unfolded. */
export const shownSteps = (steps: readonly Step[], isUnfolded: (step: Step) => boolean): readonly Step[] =>
  steps.flatMap((step) => [step, ...(isUnfolded(step) ? shownSteps(insideOf(step), isUnfolded) : [])]);

const textSchema = z.string().transform((text, context) => {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    context.addIssue({ code: 'custom', message: 'no JSON' });
    return z.NEVER;
  }
});

/**
 * Puts copied steps behind the selected one.
 * @returns how many
 * @throws DocumentError for a look that can't be read; Error for text that is no look at all
 */
export function pasteSteps(session: Session, text: string): number {
  const json = textSchema.safeParse(text);
  if (!json.success || (json.data as { kind?: unknown } | null)?.kind !== 'look') {
    throw new Error('The clipboard holds no steps. Copy a step of a path first.');
  }
  const look = parseLook(json.data);
  const { tables } = session.document;
  const missing = look.tables?.find(({ id, file }) => !tables.some((t) => t.id === id && t.file === file));
  if (missing) {
    throw new Error(
      `These steps need the table “${missing.name}” (${missing.file}), which this document does not hold and a text does not bring. Export them as a look and take its file to the shelf.`
    );
  }
  const { of, at } = placeBehind(session)!;
  const label = look.steps.length === 1 ? 'Paste a step' : `Paste ${look.steps.length} steps`;
  let fresh: Step[] = [];
  const bring: Recipe = (draft) => {
    fresh = bringSteps(draft as Session['document'], look, { newId, tableId: (id) => id });
  };
  const put = (list: Step[]): void => {
    const front = list.filter(isMoving).length;
    list.splice(Math.max(at, front), 0, ...fresh.filter((s) => !isMoving(s)));
    list.splice(Math.min(at, front), 0, ...fresh.filter(isMoving));
  };
  const made = changeList(session, label, of, put, { first: bring });
  if (!made) return 0;
  session.select(fresh.at(-1)?.id ?? null);
  const bound = new Set(allSteps(fresh).flatMap((step) => (step.where ? whyBound(step.where) : [])));
  if (bound.size > 0) {
    session.notice = `A mask that came along is bound to its picture by ${[...bound].join(', ')}: it lies here where it lay there.`;
  }
  return fresh.length;
}
