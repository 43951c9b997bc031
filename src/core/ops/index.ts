import { mix } from './mix';
import type { Op } from './op';

export type { Op, Patch } from './op';

/** Every op there is. */
export const ops: readonly Op[] = [mix as unknown as Op];

/** Ops of the format that this version can't compute yet; a document that holds one is refused by name. */
export const laterOps: readonly string[] = [
  'mono',
  'balance',
  'levels',
  'curves',
  'colour',
  'weigh',
  'tint',
  'equalize',
  'invert',
  'blur',
  'smooth',
  'sharpen',
  'local',
  'detail',
  'straighten',
  'channel',
  'merge',
  'lut',
  'lines'
];

export const findOp = (id: string): Op | undefined => ops.find((op) => op.id === id);

/** @throws RangeError for an id that is no op */
export function opOf(id: string): Op {
  const op = findOp(id);
  if (!op) throw new RangeError(`“${id}” is no step.`);
  return op;
}
