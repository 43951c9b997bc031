import type { Trapezoid } from '../blend/limits';
import type { BlendMode } from '../blend/modes';
import { modelOf, type ColourModel } from '../colour';
import { actsOn, type Pin, type Step } from '../document';
import { opOf, type Given, type Op, type PinReading } from '../ops';
import type { Frame } from '../raster/frame';
import { isPlain, lyingPlain, type Geometry } from '../raster/geometry';
import { analysisPlanes, meanAround } from './analysis';

/** A step made ready for its tiles. */
export interface PreparedStep {
  readonly op: Op;
  readonly coefficients: unknown;
  /** Samples around one that its result depends on, in a level of `scale`. */
  reach(scale: number): number;
  readonly on: ColourModel;
  /** Which of the model's channels the step acts on. */
  readonly listed: readonly boolean[];
  readonly mode: BlendMode;
  readonly opacity: number;
  readonly under: Trapezoid;
  readonly over: Trapezoid;
}

/** A path over its frame, ready to be evaluated anywhere and at any level. */
export interface Plan {
  readonly frame: Frame;
  readonly geometry: Geometry;
  /** The picture lies on its frame as it is: pixels are read, not resampled. */
  readonly plain: boolean;
  readonly steps: readonly PreparedStep[];
}

/** Size of the picture in pixels of a level. */
export function planSize(
  { geometry }: Pick<Plan, 'geometry'>,
  level: number
): { width: number; height: number } {
  return { width: Math.ceil(geometry.width / 2 ** level), height: Math.ceil(geometry.height / 2 ** level) };
}

/** How a picture of `steps` lies on a frame of this size: what its straighten steps make of it together. */
export function pictureGeometry(
  frame: { readonly width: number; readonly height: number },
  steps: readonly Step[]
): Geometry {
  let geometry = lyingPlain(frame);
  for (const step of steps) {
    if (step.enabled) geometry = opOf(step.op).geometry?.(step.params, geometry) ?? geometry;
  }
  return geometry;
}

/** Whether a result depends on where the pins are. */
export const readsPins = (steps: readonly Step[]): boolean =>
  steps.some(({ op, params }) => opOf(op).readsPins?.(params) ?? false);

const MOST_KEPT = 24;

/** Makes plans over one frame, and keeps what steps have solved from the picture for as long as it holds. */
export class Planner {
  private readonly solved = new Map<string, unknown>();
  private last: { key: string; plan: Plan } | null = null;

  constructor(private readonly frame: Frame) {}

  /** @param steps those that are off are left out */
  plan(steps: readonly Step[], pins: readonly Pin[] = []): Plan {
    const key = JSON.stringify([steps, pins]);
    if (this.last?.key === key) return this.last.plan;
    const active = steps.filter((step) => step.enabled);
    const geometry = pictureGeometry(this.frame, active);
    const prepared: PreparedStep[] = [];
    const plan: Plan = { frame: this.frame, geometry, plain: isPlain(geometry), steps: prepared };
    active.forEach((step, i) =>
      prepared.push(this.prepare(step, { ...plan, steps: [...prepared] }, active.slice(0, i), pins))
    );
    this.last = { key, plan };
    return plan;
  }

  private prepare(step: Step, before: Plan, upstream: readonly Step[], pins: readonly Pin[]): PreparedStep {
    const op = opOf(step.op);
    const { model, channels } = actsOn(step);
    const on = modelOf(model);
    const listed = on.channels.map((c) => channels.includes(c.letter));
    const given: Given = {
      model: on,
      channels: on.channels.filter((_, c) => listed[c]),
      analysis: () => analysisPlanes(before),
      pins: () => readPins(before, pins)
    };
    const asks = (op.whole?.(step.params) ?? false) || (op.readsPins?.(step.params) ?? false);
    const coefficients = asks
      ? this.kept(JSON.stringify([step.op, step.params, step.on, upstream, pins]), () =>
          op.prepare(step.params, given)
        )
      : op.prepare(step.params, given);
    return {
      op,
      coefficients,
      reach: (scale) => op.reach?.(step.params, scale) ?? 0,
      on,
      listed,
      ...step.blend
    };
  }

  private kept(key: string, solve: () => unknown): unknown {
    if (this.solved.has(key)) return this.solved.get(key);
    const value = solve();
    this.solved.set(key, value);
    for (const oldest of this.solved.keys()) {
      if (this.solved.size <= MOST_KEPT) break;
      this.solved.delete(oldest);
    }
    return value;
  }
}

/** Means of coded RGB under the pins, at full size; pins beside the picture are left out. */
export function readPins(plan: Plan, pins: readonly Pin[]): PinReading[] {
  return pins.flatMap(({ id, name, role, size, x, y }) => {
    const rgb = meanAround(plan, { x: x + 0.5, y: y + 0.5 }, size);
    return rgb ? [{ id, name, role, size, rgb }] : [];
  });
}
