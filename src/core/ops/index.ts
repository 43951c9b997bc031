import { balance } from './balance';
import { blur } from './blur';
import { colour } from './colour';
import { curves } from './curves';
import { detail } from './detail';
import { equalize } from './equalize';
import { invert } from './invert';
import { levels } from './levels';
import { local } from './local';
import { mix } from './mix';
import { mono } from './mono';
import type { Op } from './op';
import { sharpen } from './sharpen';
import { smooth } from './smooth';
import { straighten } from './straighten';
import { tint } from './tint';
import { weigh } from './weigh';

export type { Given, Op, Patch, PinReading } from './op';

/** Every op there is, in the order in which they are offered. */
export const ops: readonly Op[] = [
  mix,
  balance,
  levels,
  curves,
  colour,
  mono,
  weigh,
  tint,
  equalize,
  invert,
  local,
  detail,
  sharpen,
  smooth,
  blur,
  straighten
] as unknown as Op[];

/** Ops of the format that this version can't compute yet; a document that holds one is refused by name. */
export const laterOps: readonly string[] = ['channel', 'merge', 'lut', 'lines'];

export const findOp = (id: string): Op | undefined => ops.find((op) => op.id === id);

/** @throws RangeError for an id that is no op */
export function opOf(id: string): Op {
  const op = findOp(id);
  if (!op) throw new RangeError(`“${id}” is no step.`);
  return op;
}
