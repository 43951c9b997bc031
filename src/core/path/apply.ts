import { isAllTones, limit } from '../blend/limits';
import { blendOver } from '../blend/modes';
import { fillChannel, type Planes } from '../colour';
import { inRoom, takePlane } from '../kernels/arena';
import { MaskGround, type PictureBeside } from '../mask/ground';
import { fade, scaleBy } from '../mask/planes';
import type { PreparedMask } from '../mask/prepare';
import { readModel, type Patch } from '../ops/op';
import { crop, grow, type Raster, type Rect } from '../raster/raster';
import type { PreparedStep } from './plan';

const takePlanes = (count: number, n: number): Float32Array[] =>
  Array.from({ length: count }, () => takePlane(n));

/** Masks that were made over a raster before, by what they depend on beside it. */
export interface KeptMasks {
  get(key: string): Float32Array | undefined;
  set(key: string, mask: Float32Array): void;
}

/** The pictures beside a step, over the rectangle that it is put on, and those beside the steps inside it. */
export interface Beside {
  readonly pictures: readonly Raster[];
  readonly inside: readonly Beside[];
}

/** What goes along with the steps of an evaluation. */
export interface Progress {
  /** Called before each step; what it throws ends the evaluation. */
  readonly goOn: () => void;
  /** The picture has missing samples: a step sees 0 there, and they stay missing. */
  readonly mayMiss: boolean;
  /** Masks of the first step. */
  readonly masks?: KeptMasks;
}

interface Size {
  readonly width: number;
  readonly height: number;
}

/** Samples around a region at `level` that `steps` need of their input. */
export const margin = (steps: readonly PreparedStep[], level: number): number =>
  steps.reduce((sum, { reach }) => sum + reach(2 ** -level), 0);

/**
 * Puts steps on `raster` one after another, in place, and cuts it after each to what the rest needs of `rect`.
 * @param size of the picture at that level @param beside what lies beside each of the steps
 */
export function applySteps(
  raster: Raster,
  steps: readonly PreparedStep[],
  level: number,
  rect: Rect,
  size: Size,
  beside: readonly Beside[],
  { goOn, mayMiss, masks }: Progress
): Raster {
  steps.forEach((step, i) => {
    goOn();
    const needed = grow(rect, margin(steps.slice(i + 1), level), size.width, size.height);
    const first = i === 0 ? masks : undefined;
    applyStep(raster, step, { level, needed, size, beside: beside[i], goOn, mayMiss, masks: first });
    raster = crop({ ...raster, encoding: step.encodingAfter }, needed);
  });
  return raster;
}

/** Where a step is put on, and of what part the result is looked at. */
interface Place extends Progress {
  readonly level: number;
  /** The part of the raster, in its level, that is looked at afterwards. */
  readonly needed: Rect;
  readonly size: Size;
  readonly beside: Beside;
}

/** Puts one step on `raster`, in place: the candidate of its op, cut to its channels, joined to the base. */
function applyStep(raster: Raster, step: PreparedStep, at: Place): void {
  if (step.op.kind === 'geometry') return;
  inRoom(() => {
    const missing = at.mayMiss ? takeOutMissing(raster) : [];
    join(raster, step, patchOf(raster, step, at, presentIn(raster, missing)), (out) =>
      runInside(raster, step, at, missing, out)
    );
    for (const i of missing) for (const plane of raster.planes) plane[i] = Number.NaN;
  });
}

/** Writes what the steps inside make of the base into `out`, over the part that is needed. */
function runInside(
  base: Raster,
  { inside }: PreparedStep,
  { level, needed, size, beside, goOn, mayMiss }: Place,
  missing: readonly number[],
  out: Planes
): void {
  const n = base.width * base.height;
  const copies = base.planes.map((plane) => {
    const copy = takePlane(n);
    copy.set(plane.subarray(0, n));
    for (const i of missing) copy[i] = Number.NaN;
    return copy;
  });
  const raster = { ...base, planes: copies, alpha: null };
  const made = applySteps(raster, inside, level, needed, size, beside.inside, { goOn, mayMiss });
  made.planes.forEach((plane, c) => {
    for (let row = 0; row < made.height; row++) {
      const from = row * made.width;
      const to = (made.y - base.y + row) * base.width + made.x - base.x;
      out[c].set(plane.subarray(from, from + made.width), to);
    }
  });
}

/** The raster as kernels see it, with the ground for masks. */
interface Work extends Patch {
  readonly ground: MaskGround | null;
  readonly masks?: KeptMasks;
}

function patchOf(
  { x, y, width, height, planes, encoding }: Raster,
  step: PreparedStep,
  at: Place,
  present: Float32Array | undefined
): Work {
  const { level, needed, beside, masks, goOn } = at;
  const scale = 2 ** -level;
  const field = {
    ...{ x, y, width, height },
    needed: { x: needed.x - x, y: needed.y - y, width: needed.width, height: needed.height },
    present
  };
  const masked = step.where !== null || step.taken.length > 0;
  const others = beside.pictures.map((other, i) => withoutMissing(other, step.beside[i].mayMiss));
  const kept = step.where && masks?.get(placeOf(field.needed, step.maskKey));
  const toMake = [kept ? null : step.where, ...step.taken.map(({ mask }) => mask)];
  const channels = toMake.flatMap((mask) => [...(mask?.channels ?? [])]);
  const ground = masked ? new MaskGround(planes, encoding, field, scale, others, channels) : null;
  const taken = step.taken.map((what) => {
    if (!what.mask) return others[what.picture].planes;
    const plane = takePlane(width * height);
    ground!.mask(what.mask, plane);
    return [plane];
  });
  const absent = step.taken.map((what) => (what.mask ? null : others[what.picture].absent));
  return {
    ...field,
    planes,
    encoding,
    scale,
    taken,
    absent,
    ground,
    masks,
    goOn,
    shared: ground ?? undefined
  };
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
  return { planes: copies, encoding: rest.encoding, absent: absent.length > 0 ? absent : null };
}

/** @param inside writes what the steps inside make of the base */
function join(raster: Raster, step: PreparedStep, work: Work, inside: (out: Planes) => void): void {
  const { width, height, planes } = raster;
  const n = width * height;
  const { mode, opacity, op, where } = step;
  const limited =
    !isAllTones(step.under) || !isAllTones(step.over) || where !== null || op.limit !== undefined;
  if (step.idle && mode === 'normal') return;
  if (mode === 'normal' && opacity === 1 && !limited) {
    makeCandidate(step, work, planes, inside);
    return;
  }
  const candidate = takePlanes(3, n);
  makeCandidate(step, work, candidate, inside);
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
function makeCandidate(step: PreparedStep, work: Work, out: Planes, inside: (out: Planes) => void): void {
  const { op, coefficients, on, listed } = step;
  const { planes, encoding, width, height, scale } = work;
  const n = width * height;
  if (step.idle) return planes.forEach((plane, c) => out[c].set(plane.subarray(0, n)));
  const all = listed.every(Boolean) && on.planes === on.channels.length;
  const reach = step.reach(scale) > 0;
  if (op.kind === 'colour' || op.kind === 'path') {
    const direct = out !== planes || (all && !reach);
    const target = direct ? out : takePlanes(3, n);
    if (op.kind === 'path') inside(target);
    else op.kernel(work, coefficients, target);
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
  on.kernels[encoding].toRgb(
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
  { on, listed, encoding }: PreparedStep,
  n: number
): void {
  const { fromRgb, toRgb } = on.kernels[encoding];
  const before = takePlanes(on.planes, n);
  const after = takePlanes(on.planes, n);
  fromRgb(base, before, n);
  fromRgb(candidate, after, n);
  toRgb(
    before.map((plane, p) => (listed[p] ? after[p] : plane)),
    out,
    n
  );
}

/** What a mask that is kept is found by. */
const placeOf = ({ x, y, width, height }: Rect, maskKey: string): string =>
  `${x},${y},${width},${height}|${maskKey}`;

function fillWhere(
  { ground, needed, masks }: Work,
  where: PreparedMask,
  maskKey: string,
  amount: Float32Array,
  n: number
): void {
  const key = placeOf(needed, maskKey);
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
    fillChannel('lum', planes, work.encoding, tones, n);
    limit(amount, tones, shape, n);
  }
  op.limit?.(work, step.coefficients, amount);
  return amount;
}
