import { isAllTones, limit } from '../blend/limits';
import { blendOver } from '../blend/modes';
import { fillChannel, type Planes } from '../colour';
import { closeArena, openArena, takePlane } from '../kernels/arena';
import type { Raster, Rect } from '../raster/raster';
import type { PreparedStep } from './plan';

const takePlanes = (count: number, n: number): Float32Array[] =>
  Array.from({ length: count }, () => takePlane(n));

/**
 * Puts one step on `raster`, in place: the candidate of its op, cut to its channels, joined to the base.
 * @param needed the part of the raster, in its level, that is looked at afterwards
 * @param mayMiss the frame has missing samples: a step sees 0 there, and they stay missing
 */
export function applyStep(
  raster: Raster,
  step: PreparedStep,
  level: number,
  needed: Rect,
  mayMiss = false
): void {
  if (step.op.kind === 'geometry') return;
  const mark = openArena(0);
  const missing = mayMiss ? takeOutMissing(raster) : [];
  join(raster, step, { level, needed });
  for (const i of missing) for (const plane of raster.planes) plane[i] = Number.NaN;
  closeArena(mark);
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

/** Where a step is put on, and of what part the result is looked at. */
interface Place {
  readonly level: number;
  readonly needed: Rect;
}

function join(raster: Raster, step: PreparedStep, at: Place): void {
  const { width, height, planes } = raster;
  const n = width * height;
  const { mode, opacity } = step;
  const limited = !isAllTones(step.under) || !isAllTones(step.over);
  if (mode === 'normal' && opacity === 1 && !limited) {
    makeCandidate(raster, step, at, planes);
    return;
  }
  const candidate = takePlanes(3, n);
  makeCandidate(raster, step, at, candidate);
  const amount = limited ? amounts(planes, candidate, step, n) : null;
  blendOver(mode, planes, candidate, n);
  for (let c = 0; c < 3; c++) {
    const base = planes[c];
    const blended = candidate[c];
    if (amount) for (let i = 0; i < n; i++) base[i] += amount[i] * (blended[i] - base[i]);
    else if (opacity === 1) base.set(blended);
    else for (let i = 0; i < n; i++) base[i] += opacity * (blended[i] - base[i]);
  }
}

/** Writes what the step makes of the raster, only its listed channels changed, into `out`, which may be the raster's planes. */
function makeCandidate(raster: Raster, step: PreparedStep, { level, needed }: Place, out: Planes): void {
  const { op, coefficients, on, listed } = step;
  const { x, y, width, height, planes } = raster;
  const n = width * height;
  const scale = 2 ** -level;
  const place = {
    ...{ x, y, width, height, scale },
    needed: { x: needed.x - x, y: needed.y - y, width: needed.width, height: needed.height }
  };
  const all = listed.every(Boolean) && on.planes === on.channels.length;
  const reach = step.reach(scale) > 0;
  if (op.kind === 'colour') {
    const direct = out !== planes || (all && !reach);
    const target = direct ? out : takePlanes(3, n);
    op.kernel({ ...place, planes }, coefficients, target);
    if (!all) keepChannels(planes, target, out, step, n);
    else if (!direct) target.forEach((plane, c) => out[c].set(plane));
    return;
  }
  // A plane op: its channels in the stored values of their model, the others as they are.
  if (on.id === 'rgb') {
    const sources = planes.filter((_, c) => listed[c]);
    const targets = out.filter((_, c) => listed[c]);
    if (out !== planes) planes.forEach((plane, c) => listed[c] || out[c].set(plane));
    if (reach && out === planes) {
      const results = takePlanes(sources.length, n);
      op.kernel({ ...place, planes: sources }, coefficients, results);
      results.forEach((plane, c) => targets[c].set(plane));
    } else op.kernel({ ...place, planes: sources }, coefficients, targets);
    return;
  }
  const values = takePlanes(on.planes, n);
  on.fromRgb(planes, values, n);
  const sources = values.filter((_, c) => listed[c]);
  const results = reach ? takePlanes(sources.length, n) : sources;
  op.kernel({ ...place, planes: sources }, coefficients, results);
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

/** m of the step for each sample: opacity and the two tone limits, on the luminance of base and candidate. */
function amounts(
  base: Planes,
  candidate: Planes,
  { opacity, under, over }: PreparedStep,
  n: number
): Float32Array {
  const amount = takePlane(n).fill(opacity);
  const tones = takePlane(n);
  for (const [planes, shape] of [
    [base, under],
    [candidate, over]
  ] as const) {
    if (isAllTones(shape)) continue;
    fillChannel('lum', planes, tones, n);
    limit(amount, tones, shape, n);
  }
  return amount;
}
