import { readRegion, type Frame } from '../raster/frame';
import { crop, grow, newRaster, type Raster, type Rect } from '../raster/raster';
import { applyStep } from './apply';
import type { PreparedStep } from './prepare';

/** Where an evaluation may begin: the raster after the first `steps` steps, over all that the rest will need. */
export interface Held {
  readonly steps: number;
  readonly raster: Raster;
}

/** Pixels around a region at `level` that `steps` need of their input. */
const margin = (steps: readonly PreparedStep[], level: number): number =>
  steps.reduce((sum, { reach }) => sum + Math.ceil(reach / 2 ** level), 0);

/** The rectangle of the input that the result of `steps` over `rect` depends on. */
export function neededRect(frame: Frame, steps: readonly PreparedStep[], level: number, rect: Rect): Rect {
  const { width, height } = frame.levels[level];
  return grow(rect, margin(steps, level), width, height);
}

/**
 * The picture after `steps` over `rect`, in pixels of pyramid level `level` (0: full size). The result does not
 * depend on how a picture is cut into regions.
 * @param held a raster to begin from; it is not written to
 */
export function evaluate(
  frame: Frame,
  steps: readonly PreparedStep[],
  level: number,
  rect: Rect,
  held?: Held
): Raster {
  const { width, height } = frame.levels[level];
  const begin = held?.steps ?? 0;
  let raster: Raster;
  if (held) raster = copy(held.raster);
  else {
    raster = newRaster(neededRect(frame, steps, level, rect), frame.alpha);
    readRegion(frame, level, raster);
  }
  for (let i = begin; i < steps.length; i++) {
    applyStep(raster, steps[i]);
    raster = crop(raster, grow(rect, margin(steps.slice(i + 1), level), width, height));
  }
  return crop(raster, rect);
}

const copy = (raster: Raster): Raster => ({ ...raster, planes: raster.planes.map((p) => p.slice()) });
