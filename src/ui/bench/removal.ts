import {
  allSteps,
  replaceUses,
  titleOf,
  usersOf,
  wayTo,
  withoutStep,
  type Step,
  type Used
} from '$core/document';
import type { Recipe } from '$core/document/history';
import type { Session } from './session.svelte';
import { removeStep } from './steps';
import { removePicture } from './versions';

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

/** Removes a step; where others refer to the picture after it, or after one inside it, what is to be asked first. */
export function stepRemoval(session: Session, step: Step): Removal | null {
  const { document } = session;
  const { picture } = session.cursor;
  const ids = allSteps([step]).map(({ id }) => id);
  const used = ids.map((after) => ({ picture: picture.id, after }));
  const left = withoutStep(picture.steps, step.id);
  const pictures = document.pictures.map((p) => (p === picture ? { ...p, steps: [...left] } : p));
  const users = [...new Set(used.flatMap((one) => usersOf({ ...document, pictures }, one)))];
  if (users.length === 0) {
    removeStep(session, step);
    return null;
  }
  const before = wayTo(picture.steps, step.id).at(-2);
  return {
    what: `the step “${titleOf(step)}”`,
    users,
    instead: [
      {
        title: before ? `the picture after “${titleOf(before)}”` : 'the picture as it came',
        by: { picture: picture.id, after: before?.id ?? 'head' }
      },
      { title: 'nothing: take it out of them', by: null }
    ],
    replace: (by) =>
      removeStep(session, step, (draft) =>
        used.forEach((one) => replaceUses(draft as unknown as Document, one, by))
      )
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
