import { freeName, titleOf, underNewIds, wayTo, type Picture, type Step } from '$core/document';
import type { Recipe } from '$core/document/history';
import { beginsFrom, headFrom } from '$core/heads';
import { whyBound } from '$core/mask/shape';
import { pictureGeometry } from '$core/path/plan';
import { toFrame } from '$core/raster/geometry';
import { newId } from './names';
import { pinsForCopy } from './pins';
import type { Session } from './session.svelte';
import { isMoving } from './steps';

/** A version: the same head, path and pins under a new name, shown at once. */
export function duplicatePicture(session: Session): void {
  const { document } = session;
  const { picture } = session.cursor;
  const copy = { ...(JSON.parse(JSON.stringify(picture)) as Picture), id: newId('p') };
  copy.name = freeName(document.pictures, picture.name);
  delete copy.favourite;
  const at = document.pictures.indexOf(picture) + 1;
  const selected = session.cursor.stepId;
  const pins = pinsForCopy(document.pins, picture.id, copy.id);
  const made = session.change('Duplicate the picture', (draft) => {
    draft.pictures.splice(at, 0, copy);
    draft.pins.push(...pins);
  });
  if (!made) return;
  void session.showPicture(copy.id, selected);
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
  const isShown = id === session.cursor.picture.id;
  if (isShown) await session.showPicture((pictures[at + 1] ?? pictures[at - 1]).id);
  if (id === session.cursor.picture.id) return;
  const made = session.change('Remove a picture', (draft) => {
    first?.(draft);
    draft.pictures.splice(at, 1);
    draft.pins = draft.pins.filter((pin) => pin.picture !== id);
  });
  if (!made && isShown) await session.showPicture(id);
}

/** A version that begins where a step of the shown picture ends: what is changed before that changes it too. */
export function versionFrom(session: Session, step: Step): void {
  const { document } = session;
  const { picture } = session.cursor;
  const name = freeName(document.pictures, `${picture.name}, from ${titleOf(step)}`);
  const head = headFrom({ picture: picture.id, after: step.id });
  const version: Picture = { id: newId('p'), name, head, steps: [] };
  const at = document.pictures.indexOf(picture) + 1;
  const made = session.change('Make a version', (draft) => void draft.pictures.splice(at, 0, version));
  if (made) void session.showPicture(version.id, null);
}

/** Gives a version that begins where another picture's step ends a path of its own: a copy of what leads there stands before its steps. */
export function takeVersionApart(session: Session, { id, name, head, steps }: Picture): void {
  const { document } = session;
  const from = beginsFrom(head);
  const origin = from && document.pictures.find((p) => p.id === from.picture);
  if (!from || !origin) return;
  const way = wayTo(origin.steps, from.after);
  const moving = steps.find(isMoving);
  if (moving && !way.every(isMoving)) {
    session.refusal = `“${titleOf(moving)}” moves pixels and can’t stand behind the steps of “${origin.name}”: remove it first`;
    return;
  }
  const shape = session.pictures.shapeOfHead(session.resolver.whole(origin).head);
  const geometry = shape && pictureGeometry(shape, way);
  const pins = pinsForCopy(document.pins, origin.id, id);
  const made = session.change('Take a version apart', (draft) => {
    const version = draft.pictures.find((p) => p.id === id);
    if (!version) return;
    version.head = JSON.parse(JSON.stringify(origin.head)) as Picture['head'];
    version.steps = [...way.map((step) => underNewIds(step, newId)), ...steps];
    // Its pins stood on what it began with.
    for (const pin of draft.pins) {
      if (pin.picture !== id || !geometry) continue;
      const { x, y } = toFrame(geometry, { x: pin.x + 0.5, y: pin.y + 0.5 });
      Object.assign(pin, { x: Math.floor(x), y: Math.floor(y) });
    }
    draft.pins.push(...pins);
  });
  if (!made) return;
  const bound = way.some(isMoving) ? steps.flatMap(({ where }) => (where ? whyBound(where) : [])) : [];
  session.notice = bound.length
    ? `“${name}” has a path of its own now. A mask in it is bound to the picture by ${[...new Set(bound)].join(', ')}: see whether it lies where it should.`
    : `“${name}” has a path of its own now: the steps of “${origin.name}” are changed there no more.`;
}

/** Marks a picture as one of those that are best liked, or takes the mark off. */
export function markFavourite(session: Session, { id, favourite }: Picture): void {
  session.change(favourite ? 'Take a favourite’s mark off' : 'Mark a favourite', (draft) => {
    const found = draft.pictures.find((p) => p.id === id);
    if (!found) return;
    if (favourite) delete found.favourite;
    else found.favourite = true;
  });
}

/** Puts the pictures in the order of `ids`. */
export function orderPictures(session: Session, ids: readonly string[]): void {
  const { pictures } = session.document;
  const next = ids.flatMap((id) => pictures.filter((p) => p.id === id));
  if (next.length !== pictures.length || next.every((p, i) => p === pictures[i])) return;
  session.change('Move a picture', (draft) => {
    const by = new Map(draft.pictures.map((p) => [p.id, p]));
    draft.pictures.splice(0, draft.pictures.length, ...ids.map((id) => by.get(id)!));
  });
}

/** Moves a picture one place in their row. */
export function movePicture(session: Session, id: string, by: 1 | -1): void {
  const ids = session.document.pictures.map((p) => p.id);
  const at = ids.indexOf(id);
  const to = at + by;
  if (to < 0 || to >= ids.length) return;
  [ids[at], ids[to]] = [ids[to], ids[at]];
  orderPictures(session, ids);
}
