import { isAllTones, limit } from '../blend/limits';
import { blendOver } from '../blend/modes';
import { fillChannel, type Planes } from '../colour';
import { closeArena, openArena, takePlane } from '../kernels/arena';
import { MaskGround, type PictureBeside } from '../mask/ground';
import { fade, scaleBy } from '../mask/planes';
import type { PreparedMask } from '../mask/prepare';
import { readModel, type Patch } from '../ops/op';
import type { Raster, Rect } from '../raster/raster';
import type { PreparedStep } from './plan';

const takePlanes = (count: number, n: number): Float32Array[] =>
  Array.from({ length: count }, () => takePlane(n));

/** Masks that were made over a raster before, by what they depend on beside it. */
export interface KeptMasks {
  get(key: string): Float32Array | undefined;
  set(key: string, mask: Float32Array): void;
}

/** Where a step is put on, and of what part the result is looked at. */
export interface Place {
  readonly level: number;
  /** The part of the raster, in its level, that is looked at afterwards. */
  readonly needed: Rect;
  /** The pictures beside the step, over the same rectangle as the raster. */
  readonly beside: readonly Raster[];
  readonly masks?: KeptMasks;
}

/**
 * Puts one step on `raster`, in place: the candidate of its op, cut to its channels, joined to the base.
 * @param mayMiss the frame has missing samples: a step sees 0 there, and they stay missing
 */
export function applyStep(raster: Raster, step: PreparedStep, at: Place, mayMiss = false): void {
  if (step.op.kind === 'geometry') return;
  const mark = openArena(0);
  const missing = mayMiss ? takeOutMissing(raster) : [];
  join(raster, step, patchOf(raster, step, at, presentIn(raster, missing)));
  for (const i of missing) for (const plane of raster.planes) plane[i] = Number.NaN;
  closeArena(mark);
}

/** The raster as kernels see it, with the ground for masks. */
interface Work extends Patch {
  readonly ground: MaskGround | null;
  readonly masks?: KeptMasks;
}

function patchOf(
  { x, y, width, height, planes }: Raster,
  step: PreparedStep,
  at: Place,
  present: Float32Array | undefined
): Work {
  const { level, needed, beside, masks } = at;
  const scale = 2 ** -level;
  const field = {
    ...{ x, y, width, height },
    needed: { x: needed.x - x, y: needed.y - y, width: needed.width, height: needed.height },
    present
  };
  const masked = step.where !== null || step.taken.length > 0;
  const others = beside.map((other, i) => withoutMissing(other, step.beside[i].mayMiss));
  const ground = masked ? new MaskGround(planes, field, scale, others) : null;
  const taken = step.taken.map((what) => {
    if (!what.mask) return others[what.picture].planes;
    const plane = takePlane(width * height);
    ground!.mask(what.mask, plane);
    return [plane];
  });
  const absent = step.taken.map((what) => (what.mask ? null : others[what.picture].absent));
  return { ...field, planes, scale, taken, absent, ground, masks, shared: ground ?? undefined };
}

function takeOutMissing({ planes, width, height }: Raster): number[] {
  const missing: number[] = [];
  for (let i = 0; i < width * height; i++) {
    if (!planes.some((plane) => Number.isNaN(plane[i]))) continue;
    missing.push(i);
    for (const plane of planes) plane[i] = 0;
  }
  return missing;
}

/** 1 where a sample is there; nothing where none is missing. */
function presentIn({ width, height }: Raster, missing: readonly number[]): Float32Array | undefined {
  if (missing.length === 0) return undefined;
  const present = takePlane(width * height).fill(1);
  for (const i of missing) present[i] = 0;
  return present;
}

/** A picture beside the step, in the arena; what is missing of it is 0. */
function withoutMissing({ planes, width, height, ...rest }: Raster, mayMiss: boolean): PictureBeside {
  const n = width * height;
  const copies = planes.map((plane) => {
    const copy = takePlane(n);
    copy.set(plane.subarray(0, n));
    return copy;
  });
  const absent = mayMiss ? takeOutMissing({ ...rest, planes: copies, width, height }) : [];
  return { planes: copies, absent: absent.length > 0 ? absent : null };
}

function join(raster: Raster, step: PreparedStep, work: Work): void {
  const { width, height, planes } = raster;
  const n = width * height;
  const { mode, opacity, op, where } = step;
  const limited =
    !isAllTones(step.under) || !isAllTones(step.over) || where !== null || op.limit !== undefined;
  if (step.idle && mode === 'normal') return;
  if (mode === 'normal' && opacity === 1 && !limited) {
    makeCandidate(step, work, planes);
    return;
  }
  const candidate = takePlanes(3, n);
  makeCandidate(step, work, candidate);
  const amount = limited ? amounts(work, candidate, step, n) : null;
  blendOver(mode, planes, candidate, n);
  for (let c = 0; c < 3; c++) {
    const base = planes[c];
    const blended = candidate[c];
    if (amount) fade(base, blended, amount, n);
    else if (opacity === 1) base.set(blended);
    else for (let i = 0; i < n; i++) base[i] += opacity * (blended[i] - base[i]);
  }
}

/** Writes what the step makes of its input, only its listed channels changed, into `out`, which may be the input's planes. */
function makeCandidate(step: PreparedStep, work: Work, out: Planes): void {
  const { op, coefficients, on, listed } = step;
  const { planes, width, height, scale } = work;
  const n = width * height;
  if (step.idle) return planes.forEach((plane, c) => out[c].set(plane.subarray(0, n)));
  const all = listed.every(Boolean) && on.planes === on.channels.length;
  const reach = step.reach(scale) > 0;
  if (op.kind === 'colour') {
    const direct = out !== planes || (all && !reach);
    const target = direct ? out : takePlanes(3, n);
    op.kernel(work, coefficients, target);
    if (!all) keepChannels(planes, target, out, step, n);
    else if (!direct) target.forEach((plane, c) => out[c].set(plane));
    return;
  }
  // A plane op: its channels in the stored values of their model, the others as they are.
  const alone = { ...work, shared: undefined };
  if (on.id === 'rgb') {
    const sources = planes.filter((_, c) => listed[c]);
    const targets = out.filter((_, c) => listed[c]);
    if (out !== planes) planes.forEach((plane, c) => listed[c] || out[c].set(plane));
    if (reach && out === planes) {
      const results = takePlanes(sources.length, n);
      op.kernel({ ...alone, planes: sources }, coefficients, results);
      results.forEach((plane, c) => targets[c].set(plane));
    } else op.kernel({ ...alone, planes: sources }, coefficients, targets);
    return;
  }
  const values = takePlanes(on.planes, n);
  readModel(work, on, values);
  const sources = values.filter((_, c) => listed[c]);
  const results = reach ? takePlanes(sources.length, n) : sources;
  op.kernel({ ...alone, planes: sources }, coefficients, results);
  let k = 0;
  on.toRgb(
    values.map((plane, c) => (listed[c] ? results[k++] : plane)),
    out,
    n
  );
}

/** Writes the base with the listed channels of the candidate into `out`. */
function keepChannels(
  base: Planes,
  candidate: Planes,
  out: Planes,
  { on, listed }: PreparedStep,
  n: number
): void {
  const before = takePlanes(on.planes, n);
  const after = takePlanes(on.planes, n);
  on.fromRgb(base, before, n);
  on.fromRgb(candidate, after, n);
  on.toRgb(
    before.map((plane, p) => (listed[p] ? after[p] : plane)),
    out,
    n
  );
}

function fillWhere(
  { ground, needed, masks }: Work,
  where: PreparedMask,
  maskKey: string,
  amount: Float32Array,
  n: number
): void {
  const key = `${needed.x},${needed.y},${needed.width},${needed.height}|${maskKey}`;
  const known = masks?.get(key);
  if (known) return amount.set(known);
  ground!.mask(where, amount);
  masks?.set(key, amount.slice(0, n));
}

/** m of the step for each sample: opacity, its mask, the two tone limits on the luminance of base and candidate, the op's own. */
function amounts(work: Work, candidate: Planes, step: PreparedStep, n: number): Float32Array {
  const { opacity, under, over, where, op } = step;
  const amount = takePlane(n);
  if (where) {
    fillWhere(work, where, step.maskKey, amount, n);
    if (opacity !== 1) scaleBy(amount, opacity, 0, n);
  } else amount.fill(opacity, 0, n);
  for (const [planes, shape] of [
    [work.planes, under],
    [candidate, over]
  ] as const) {
    if (isAllTones(shape)) continue;
    const tones = takePlane(n);
    fillChannel('lum', planes, tones, n);
    limit(amount, tones, shape, n);
  }
  op.limit?.(work, step.coefficients, amount);
  return amount;
}
