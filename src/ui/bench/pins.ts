import type { Pin } from '$core/document';
import type { Spot } from '../viewer/spot';
import type { Session } from './session.svelte';

export const pinRoles = ['read', 'neutral', 'keep', 'want', 'avoid'] as const;
export type PinRole = (typeof pinRoles)[number];

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

/** Drops a pin on a place of the frame; gives its id. */
export function dropPin(session: Session, spot: Spot, role: PinRole = 'neutral', size = SIZE): string {
  const { pins } = session.document;
  let number = pins.length + 1;
  while (pins.some((p) => p.name === `pin ${number}`)) number++;
  const pin: Pin = {
    id: `n-${crypto.randomUUID().slice(0, 8)}`,
    name: `pin ${number}`,
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
      if (pin) Object.assign(pin, change);
    },
    gesture && `${gesture} ${id}`
  );
}

export function removePin(session: Session, id: string): void {
  session.change('Remove a pin', (draft) => {
    draft.pins = draft.pins.filter((p) => p.id !== id);
  });
}
