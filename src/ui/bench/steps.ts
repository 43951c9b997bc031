import { z } from 'zod';
import { parseLook, stepSchema, type Picture, type Step } from '$core/document';
import type { Recipe } from '$core/document/history';
import { whyBound } from '$core/mask/shape';
import { findOp, opOf } from '$core/ops';
import type { TintStop } from '$core/ops/tint';
import { freeName, newId } from './names';
import { pinsForCopy } from './pins';
import type { Session } from './session.svelte';

const isMoving = ({ op }: { op: string }): boolean => findOp(op)?.kind === 'geometry';

/** What a new step of some ops begins with, where the plain default is not what a person would reach for first. */
const beginnings: Readonly<Record<string, Partial<Step>>> = {
  sharpen: { on: { model: 'lab', channels: ['l'] } },
  local: { on: { model: 'lab', channels: ['l'] } },
  smooth: { on: { model: 'lab', channels: ['a', 'b'] } },
  detail: { blend: { mode: 'luminosity', opacity: 1, under: [0, 0, 1, 1], over: [0, 0, 1, 1] } },
  channel: { blend: { mode: 'luminosity', opacity: 1, under: [0, 0, 1, 1], over: [0, 0, 1, 1] } }
};

/** Where a step may stand: those that move pixels before all others. */
function placeFor(steps: readonly Step[], op: string, wanted: number): number {
  const moving = steps.filter(isMoving).length;
  return isMoving({ op }) ? Math.min(wanted, moving) : Math.max(wanted, moving);
}

function changePath(session: Session, label: string, change: (steps: Step[]) => void): boolean {
  const { id } = session.picture;
  return session.change(label, (draft) => {
    const picture = draft.pictures.find((p) => p.id === id);
    if (picture) change(picture.steps as Step[]);
  });
}

/** Where the next step goes: behind the selected one. */
const behindSelected = ({ picture, step }: Session): number => (step ? picture.steps.indexOf(step) + 1 : 0);

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

/** Puts a step of `op` that is set to its beginning behind the selected one, and selects it. */
export function addStep(session: Session, op: string, more: object = beginnings[op] ?? {}): void {
  const step = stepSchema.parse({ id: newId('s'), op, params: {}, ...more });
  const at = placeFor(session.picture.steps, op, behindSelected(session));
  changePath(session, `Add ${opOf(op).title.toLowerCase()}`, (steps) => void steps.splice(at, 0, step));
  session.select(step.id);
}

/**
 * Takes a step out of the path and selects the one before it.
 * @param first what is done to the document before that, in the same change
 */
export function removeStep(session: Session, step: Step, first?: Recipe): void {
  const { picture } = session;
  const at = picture.steps.indexOf(step);
  const made = session.change('Remove a step', (draft) => {
    first?.(draft);
    draft.pictures.find((p) => p.id === picture.id)?.steps.splice(at, 1);
  });
  if (made) session.select(picture.steps[at - 1]?.id ?? null);
}

export function duplicateStep(session: Session, step: Step): void {
  const at = session.picture.steps.indexOf(step) + 1;
  const copy = { ...(JSON.parse(JSON.stringify(step)) as Step), id: newId('s') };
  changePath(session, 'Duplicate a step', (steps) => void steps.splice(at, 0, copy));
  session.select(copy.id);
}

export function renameStep(session: Session, step: Step, name: string): void {
  const trimmed = name.trim().slice(0, 200);
  changePath(session, 'Rename a step', (steps) => {
    const found = steps.find((s) => s.id === step.id);
    if (!found) return;
    if (trimmed) found.name = trimmed;
    else delete found.name;
  });
}

export function toggleStep(session: Session, step: Step): void {
  changePath(session, step.enabled ? 'Switch a step off' : 'Switch a step on', (steps) => {
    const found = steps.find((s) => s.id === step.id);
    if (found) found.enabled = !step.enabled;
  });
}

/** Puts the steps in the order of `ids`; those that move pixels stay in front. */
export function orderSteps(session: Session, ids: readonly string[]): void {
  const { steps } = session.picture;
  const ordered = ids.flatMap((id) => steps.filter((s) => s.id === id));
  const next = [...ordered.filter(isMoving), ...ordered.filter((s) => !isMoving(s))];
  if (next.length !== steps.length || next.every((s, i) => s === steps[i])) return;
  changePath(session, 'Move a step', (draft) => {
    const by = new Map(draft.map((s) => [s.id, s]));
    draft.splice(0, draft.length, ...next.map((s) => by.get(s.id)!));
  });
}

/** Moves a step one place towards the head or the end. */
export function moveStep(session: Session, step: Step, by: 1 | -1): void {
  const ids = session.picture.steps.map((s) => s.id);
  const at = ids.indexOf(step.id);
  const to = at + by;
  if (to < 0 || to >= ids.length) return;
  [ids[at], ids[to]] = [ids[to], ids[at]];
  orderSteps(session, ids);
}

/** Steps as text that can be pasted into another document: a look. */
export const stepsAsText = (name: string, steps: readonly Step[]): string =>
  JSON.stringify({ kromba: 1, kind: 'look', name, steps });

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
  const fresh = look.steps.map((step) => ({ ...step, id: newId('s') }));
  const at = behindSelected(session);
  const made = changePath(
    session,
    fresh.length === 1 ? 'Paste a step' : `Paste ${fresh.length} steps`,
    (steps) => {
      const moving = fresh.filter(isMoving);
      const others = fresh.filter((s) => !isMoving(s));
      const front = steps.filter(isMoving).length;
      steps.splice(Math.max(at, front), 0, ...others);
      steps.splice(Math.min(at, front), 0, ...moving);
    }
  );
  if (!made) return 0;
  session.select(fresh.at(-1)?.id ?? null);
  const bound = new Set(fresh.flatMap((step) => (step.where ? whyBound(step.where) : [])));
  if (bound.size > 0) {
    session.notice = `A mask that came along is bound to its picture by ${[...bound].join(', ')}: it lies here where it lay there.`;
  }
  return fresh.length;
}

/** A version: the same head, path and pins under a new name, shown at once. */
export function duplicatePicture(session: Session): void {
  const { picture, document } = session;
  const copy = { ...(JSON.parse(JSON.stringify(picture)) as Picture), id: newId('p') };
  copy.name = freeName(document.pictures, picture.name);
  const at = document.pictures.indexOf(picture) + 1;
  const selected = picture.steps.findIndex((s) => s.id === session.stepId);
  const pins = pinsForCopy(document.pins, picture.id, copy.id);
  const made = session.change('Duplicate the picture', (draft) => {
    draft.pictures.splice(at, 0, copy);
    draft.pins.push(...pins);
  });
  if (!made) return;
  void session.showPicture(copy.id, copy.steps[selected]?.id ?? null);
}

export function renamePicture(session: Session, id: string, name: string): void {
  const trimmed = name.trim().slice(0, 200);
  if (!trimmed) return;
  session.change('Rename a picture', (draft) => {
    const found = draft.pictures.find((p) => p.id === id);
    if (found) found.name = trimmed;
  });
}

export async function removePicture(session: Session, id: string, first?: Recipe): Promise<void> {
  const { pictures } = session.document;
  if (pictures.length < 2) return;
  const at = pictures.findIndex((p) => p.id === id);
  const isShown = id === session.picture.id;
  if (isShown) await session.showPicture((pictures[at + 1] ?? pictures[at - 1]).id);
  if (id === session.picture.id) return;
  const made = session.change('Remove a picture', (draft) => {
    first?.(draft);
    draft.pictures.splice(at, 1);
    draft.pins = draft.pins.filter((pin) => pin.picture !== id);
  });
  if (!made && isShown) await session.showPicture(id);
}
