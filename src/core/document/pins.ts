import { z } from 'zod';
import { opOf } from '../ops';
import { idSchema } from './mask';
import { nameSchema } from './name';
import type { Step } from './step';

/** Side of a pin, in full-size pixels. */
const LARGEST_PIN = 1000;

export const pinRoles = ['read', 'neutral', 'keep', 'want', 'avoid'] as const;
export type PinRole = (typeof pinRoles)[number];

export const pinSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** The picture it belongs to: only that one's steps are solved from it. One that names none belongs to all. */
  picture: idSchema.optional(),
  /** Pixels of the full-size frame. */
  x: z.number(),
  y: z.number(),
  size: z
    .number()
    .positive('must be over 0 px')
    .max(LARGEST_PIN, `must be at most ${LARGEST_PIN} px`)
    .default(5),
  role: z.enum(pinRoles).default('read')
});
export type Pin = z.infer<typeof pinSchema>;

/** The pins of a picture: its own, and those that belong to all. */
export const pinsOf = ({ pins }: { readonly pins: readonly Pin[] }, picture: string): Pin[] =>
  pins.filter((pin) => pin.picture === undefined || pin.picture === picture);

/** Roles of the pins from which some steps are solved, those inside others counted. */
const rolesRead = (steps: readonly Step[]): PinRole[] =>
  steps.flatMap(({ op, params, enabled }) => {
    if (!enabled) return [];
    const { readsPins, inside } = opOf(op);
    return [...(readsPins?.(params) ?? []), ...rolesRead(inside?.(params) ?? [])];
  });

/** Those of a picture's pins from which one of its steps is solved. */
export function pinsRead(steps: readonly Step[], pins: readonly Pin[]): Pin[] {
  const roles = new Set(rolesRead(steps));
  return roles.size > 0 ? pins.filter((pin) => roles.has(pin.role)) : [];
}

/** What a path depends on of a picture's pins, as a key; empty where on nothing. */
export function pinKey(steps: readonly Step[], pins: readonly Pin[]): string {
  const read = pinsRead(steps, pins);
  return read.length > 0 ? JSON.stringify(read.map(({ x, y, size, role }) => [x, y, size, role])) : '';
}
