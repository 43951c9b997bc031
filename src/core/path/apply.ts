import { isAllTones, limit } from '../blend/limits';
import { blendOver } from '../blend/modes';
import { fillChannel, type Planes } from '../colour';
import { closeArena, openArena, takePlane } from '../kernels/arena';
import type { Raster } from '../raster/raster';
import type { PreparedStep } from './prepare';

const takePlanes = (count: number, n: number): Float32Array[] =>
  Array.from({ length: count }, () => takePlane(n));

/** Puts one step on `raster`, in place: the candidate of its op, cut to its channels, joined to the base. */
export function applyStep(raster: Raster, step: PreparedStep): void {
  const mark = openArena(0);
  join(raster, step);
  closeArena(mark);
}

function join(raster: Raster, step: PreparedStep): void {
  const { width, height, planes } = raster;
  const n = width * height;
  const { op, coefficients, keeps, mode, opacity } = step;
  const limited = !isAllTones(step.under) || !isAllTones(step.over);
  if (!keeps && mode === 'normal' && opacity === 1 && !limited && step.reach === 0) {
    op.kernel({ width, height, planes }, coefficients, planes);
    return;
  }
  const candidate = takePlanes(3, n);
  op.kernel({ width, height, planes }, coefficients, candidate);
  if (keeps) keepChannels(planes, candidate, step, n);
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

/** Sets the channels that are not listed in the step's On back to the base's, in its model. */
function keepChannels(base: Planes, candidate: Planes, { on, keeps }: PreparedStep, n: number): void {
  const before = takePlanes(on.planes, n);
  const after = takePlanes(on.planes, n);
  on.fromRgb(base, before, n);
  on.fromRgb(candidate, after, n);
  const joined = before.map((plane, p) => (keeps![p] ? after[p] : plane));
  on.toRgb(joined, candidate, n);
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
  fillChannel('lum', base, tones, n);
  limit(amount, tones, under, n);
  fillChannel('lum', candidate, tones, n);
  limit(amount, tones, over, n);
  return amount;
}
