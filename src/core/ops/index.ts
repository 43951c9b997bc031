import { averaging } from './averaging';
import { balance } from './balance';
import { blur } from './blur';
import { channel } from './channel';
import { colour } from './colour';
import { curves } from './curves';
import { deconvolve } from './deconvolve';
import { denoise } from './denoise';
import { detail } from './detail';
import { equalize } from './equalize';
import { group } from './group';
import { invert } from './invert';
import { lay } from './lay';
import { levels } from './levels';
import { lines } from './lines';
import { local } from './local';
import { lut } from './lut';
import { maskSeen } from './mask-seen';
import { match } from './match';
import { merge } from './merge';
import { mix } from './mix';
import { mono } from './mono';
import type { Op } from './op';
import { register } from './register';
import { rein } from './rein';
import { ringsSeen } from './rings-seen';
import { scaleSeen } from './scale-seen';
import { scales } from './scales';
import { sharpen } from './sharpen';
import { sky } from './sky';
import { skySeen } from './sky-seen';
import { smooth } from './smooth';
import { straighten } from './straighten';
import { stars } from './stars';
import { stretch } from './stretch';
import { tint } from './tint';
import { weigh } from './weigh';

export type { Asked, Given, Op, Patch, PinReading, Solving, Taken } from './op';

/** Every op there is, in the order in which they are offered. */
export const ops: readonly Op[] = [
  mix,
  balance,
  levels,
  curves,
  colour,
  mono,
  channel,
  merge,
  lay,
  lut,
  weigh,
  tint,
  stretch,
  rein,
  match,
  sky,
  lines,
  equalize,
  invert,
  local,
  detail,
  scales,
  sharpen,
  deconvolve,
  denoise,
  stars,
  smooth,
  blur,
  straighten,
  register,
  group
] as unknown as Op[];

export const findOp = (id: string): Op | undefined => ops.find((op) => op.id === id);

/** Ops that the house itself puts behind a path, to look at what is no picture; no document holds them. */
const inner: readonly Op[] = [maskSeen, skySeen, scaleSeen, ringsSeen, averaging] as unknown as Op[];

/** An op of documents or of the house itself. */
export const anyOp = (id: string): Op | undefined => findOp(id) ?? inner.find((op) => op.id === id);

/** @throws RangeError for an id that is no op */
export function opOf(id: string): Op {
  const op = anyOp(id);
  if (!op) throw new RangeError(`“${id}” is no step.`);
  return op;
}
