import { pinKey, pinsOf, type KrombaDocument, type Pin, type PinRole } from '$core/document';
import { opOf } from '$core/ops';
import type { Spot } from '../viewer/spot';
import { newId } from './names';
import type { Session } from './session.svelte';

/** What each role is for, and the letter that marks it on the picture. */
export const roleSigns: Readonly<Record<PinRole, { sign: string; title: string }>> = {
  read: { sign: 'r', title: 'Read only' },
  neutral: { sign: 'n', title: 'Should be neutral' },
  keep: { sign: 'k', title: 'Should stay as it is' },
  want: { sign: '+', title: 'Wanted: to be told apart' },
  avoid: { sign: '−', title: 'To avoid: to be told apart from' }
};

const SIZE = 11;

/** Sides of a pin's square, in pixels. */
export const pinSizes = [1, 3, 5, 11, 21, 51, 101, 201, 401] as const;

/** The pin that stands for a dragged part of the picture: its middle, and the side that fits into it. */
export function pinOver(from: Spot, to: Spot): { spot: Spot; size: number } {
  const middle = (a: number, b: number): number => (a + b) / 2;
  const [a, b] = [from.onFrame, to.onFrame];
  const side = Math.min(Math.abs(b.x - a.x), Math.abs(b.y - a.y));
  const size = pinSizes.findLast((s) => s <= side) ?? 1;
  const onFrame = { x: middle(a.x, b.x), y: middle(a.y, b.y) };
  return {
    spot: { x: Math.floor(middle(from.x, to.x)), y: Math.floor(middle(from.y, to.y)), onFrame },
    size
  };
}

/** Drops a pin of the shown picture on a place of its frame; gives its id. */
export function dropPin(
  session: Session,
  spot: Pick<Spot, 'onFrame'>,
  role: PinRole = 'neutral',
  size = SIZE
): string {
  const { pins, picture } = session.cursor;
  let number = pins.length + 1;
  while (pins.some((p) => p.name === `pin ${number}`)) number++;
  const pin: Pin = {
    id: newId('n'),
    name: `pin ${number}`,
    picture: picture.id,
    x: Math.floor(spot.onFrame.x),
    y: Math.floor(spot.onFrame.y),
    size,
    role
  };
  session.change('Drop a pin', (draft) => void draft.pins.push(pin));
  return pin.id;
}

export function changePin(
  session: Session,
  id: string,
  label: string,
  change: Partial<Pin>,
  gesture?: string
): void {
  session.change(
    label,
    (draft) => {
      const pin = draft.pins.find((p) => p.id === id);
      if (!pin) return;
      Object.assign(pin, change);
      if ('picture' in change && change.picture === undefined) delete pin.picture;
    },
    gesture && `${gesture} ${id}`
  );
}

export function removePin(session: Session, id: string): void {
  session.change('Remove a pin', (draft) => {
    draft.pins = draft.pins.filter((p) => p.id !== id);
  });
}

/** What a pin is called on the picture: its number, or the name that a person gave it. */
export const pinMark = ({ name }: Pin): string => /^pin (\d+)$/.exec(name)?.[1] ?? name;

/** The pins that belong to a picture alone, once more for a copy of it. */
export const pinsForCopy = (pins: readonly Pin[], picture: string, copy: string): Pin[] =>
  pins.filter((pin) => pin.picture === picture).map((pin) => ({ ...pin, id: newId('n'), picture: copy }));

/**
 * Says which steps of other pictures are solved anew, as a pin that belongs to all was changed, or does so no more; null
 * where none is.
 */
export function movedElsewhere(before: KrombaDocument, after: KrombaDocument, shown: string): string | null {
  if (before.pins === after.pins) return null;
  const moved = after.pictures.flatMap((picture) => {
    if (picture.id === shown || !before.pictures.includes(picture)) return [];
    const [then, now] = [pinsOf(before, picture.id), pinsOf(after, picture.id)];
    return picture.steps
      .filter((step) => step.enabled && pinKey([step], then) !== pinKey([step], now))
      .map((step) => `“${step.name ?? opOf(step.op).title}” of “${picture.name}”`);
  });
  if (moved.length === 0) return null;
  const shared = after.pins.some((pin) => pin.picture === undefined && !before.pins.includes(pin));
  const solved = `${moved.join(', ')} ${moved.length > 1 ? 'were' : 'was'} solved anew`;
  return shared
    ? `The pin belongs to all pictures: ${solved} too.`
    : `The pin belonged to all pictures: ${solved} without it.`;
}
