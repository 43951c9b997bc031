import { replaceUses, usersOf, type Step, type Used } from '$core/document';
import type { Recipe } from '$core/document/history';
import { opOf } from '$core/ops';
import type { Session } from './session.svelte';
import { removePicture, removeStep } from './steps';

/** Something that is to be removed though others use it: who does, and what they could use instead. */
export interface Removal {
  readonly what: string;
  readonly users: readonly string[];
  /** What can stand in its place; null takes it out of those that use it. */
  readonly instead: readonly { readonly title: string; readonly by: Used | null }[];
  replace(by: Used | null): void;
}

type Document = Session['document'];

/** Replaces and removes in one change. */
const without =
  (used: Used, remove: (first: Recipe) => unknown): Removal['replace'] =>
  (by) =>
    void remove((draft) => replaceUses(draft as unknown as Document, used, by));

/** Removes a step; where others refer to the picture after it, what is to be asked first. */
export function stepRemoval(session: Session, step: Step): Removal | null {
  const { picture } = session;
  const used = { picture: picture.id, after: step.id };
  const users = usersOf(session.document, used);
  if (users.length === 0) {
    removeStep(session, step);
    return null;
  }
  const before = picture.steps[picture.steps.indexOf(step) - 1];
  const name = step.name ?? opOf(step.op).title;
  return {
    what: `the step “${name}”`,
    users,
    instead: [
      {
        title: before
          ? `the picture after “${before.name ?? opOf(before.op).title}”`
          : 'the picture as it came',
        by: { picture: picture.id, after: before?.id ?? 'head' }
      },
      { title: 'nothing: take it out of them', by: null }
    ],
    replace: without(used, (first) => removeStep(session, step, first))
  };
}

/** Removes a picture; where others refer to it, what is to be asked first. */
export function pictureRemoval(session: Session, id: string): Removal | null {
  const { document } = session;
  const picture = document.pictures.find((p) => p.id === id)!;
  const others = document.pictures.filter((p) => p.id !== id);
  const users = usersOf({ ...document, pictures: others }, { picture: id });
  const remove = (first?: Recipe): void => void removePicture(session, id, first);
  if (users.length === 0) {
    remove();
    return null;
  }
  return {
    what: `the picture “${picture.name}”`,
    users,
    instead: [
      ...others.map((p) => ({ title: `the picture “${p.name}”`, by: { picture: p.id } })),
      { title: 'nothing: take it out of them', by: null }
    ],
    replace: without({ picture: id }, remove)
  };
}

/** Removes a named mask; where others refer to it, what is to be asked first. */
export function maskRemoval(session: Session, id: string): Removal | null {
  const { document } = session;
  const { name } = document.masks.find((m) => m.id === id)!;
  const used = { mask: id };
  const users = usersOf(document, used);
  const remove = (first?: Recipe): boolean =>
    session.change('Remove a mask', (draft) => {
      first?.(draft);
      draft.masks = draft.masks.filter((m) => m.id !== id);
    });
  if (users.length === 0) {
    remove();
    return null;
  }
  return {
    what: `the mask “${name}”`,
    users,
    instead: [
      ...document.masks
        .filter((m) => m.id !== id)
        .map((m) => ({ title: `the mask “${m.name}”`, by: { mask: m.id } })),
      { title: 'nothing: take the term out of them', by: null }
    ],
    replace: without(used, remove)
  };
}
