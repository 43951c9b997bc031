import type { Trapezoid } from '../blend/limits';
import type { BlendMode } from '../blend/modes';
import { modelOf, type ColourModel } from '../colour';
import { multiply } from '../colour/xyz';
import {
  actsOn,
  DocumentError,
  pinKey,
  pinsRead,
  referenceKey,
  stepKey,
  type Mask,
  type Pin,
  type Reference,
  type SourcePicture,
  type SourceStep,
  type Step
} from '../document';
import { prepareMask, type PreparedMask } from '../mask/prepare';
import { opOf, type Given, type Op, type PinReading } from '../ops';
import type { Frame } from '../raster/frame';
import { isPlain, lyingPlain, translation, type Geometry } from '../raster/geometry';
import { analysisPlanes, meanAround } from './analysis';

/** A step made ready for its tiles. */
export interface PreparedStep {
  readonly op: Op;
  readonly coefficients: unknown;
  /** Its candidate is the input itself. */
  readonly idle: boolean;
  /** Samples around one that its result depends on, in a level of `scale`. */
  reach(scale: number): number;
  readonly on: ColourModel;
  /** Which of the model's channels the step acts on. */
  readonly listed: readonly boolean[];
  readonly mode: BlendMode;
  readonly opacity: number;
  readonly under: Trapezoid;
  readonly over: Trapezoid;
  readonly where: PreparedMask | null;
  /** What the mask depends on beside the picture that comes into the step. */
  readonly maskKey: string;
  /** The pictures that the step takes from or that its masks are made of. */
  readonly beside: readonly Plan[];
  /** What the op takes: one of the pictures beside it, or a mask. */
  readonly taken: readonly PreparedTaken[];
}

type PreparedTaken =
  { readonly picture: number; readonly mask?: undefined } | { readonly mask: PreparedMask };

/** A path over its frame, ready to be evaluated anywhere and at any level. */
export interface Plan {
  /** What its samples depend on. */
  readonly key: string;
  readonly frame: Frame;
  readonly geometry: Geometry;
  /** The picture lies on its frame as it is: pixels are read, not resampled. */
  readonly plain: boolean;
  /** What stands where the frame does not reach: black, or missing in a picture that lies beside another. */
  readonly beyond: number;
  /** Whether samples may be missing. */
  readonly mayMiss: boolean;
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

/** Most pictures beside one another that are refused as no end. */
const DEEPEST = 64;
const MOST_PLANS = 24;
const MOST_STEPS = 64;

/** Keeps the few results that were used last. */
class Kept<T> {
  private readonly values = new Map<string, T>();

  constructor(private readonly most: number) {}

  get(key: string, make: () => T): T {
    const known = this.values.get(key);
    const value = known === undefined ? make() : known;
    this.values.delete(key);
    this.values.set(key, value);
    for (const oldest of this.values.keys()) {
      if (this.values.size <= this.most) break;
      this.values.delete(oldest);
    }
    return value;
  }
}

/** Whether a step asks the picture that comes into it for something before it can act on it. */
const asksPicture = ({ op, params }: Step): boolean =>
  (opOf(op).whole?.(params) ?? false) || (opOf(op).readsPins?.(params) ?? []).length > 0;

const placeKey = ({ toFrame, width, height }: Geometry): string => JSON.stringify([toFrame, width, height]);

/** Makes plans over one frame, and keeps steps that were made ready, with what they have solved from the picture. */
export class Planner {
  private readonly steps = new Kept<PreparedStep>(MOST_STEPS);
  private readonly plans = new Kept<Plan>(MOST_PLANS);

  /**
   * @param plannerOf the planner over another frame, by its id, where steps refer to other pictures
   * @param goOn called again and again while a step is solved; what it throws ends that
   */
  constructor(
    private readonly frame: Frame,
    private readonly plannerOf: (frame: string) => Planner = () => this,
    private readonly goOn: () => void = () => undefined
  ) {}

  /**
   * @param steps those that are off are left out
   * @param pins the picture's own and those that belong to all
   * @param lying how the picture lies on the frame where that is not what its own steps make of it
   * @throws DocumentError where a picture that a step takes from is of another size
   */
  plan(
    steps: readonly SourceStep[],
    pins: readonly Pin[] = [],
    lying: Geometry | null = null,
    depth = 0
  ): Plan {
    const active = steps.filter((step) => step.enabled);
    const key = [...active.map(stepKey), pinKey(active, pins), lying ? placeKey(lying) : ''].join('|');
    return this.plans.get(key, () => {
      const geometry = lying ?? pictureGeometry(this.frame, active);
      const place = placeKey(geometry);
      const prepared: PreparedStep[] = [];
      const plain = isPlain(geometry);
      const plan: Plan = {
        ...{ key, frame: this.frame, geometry, plain, steps: prepared },
        beyond: lying ? Number.NaN : 0,
        mayMiss: this.frame.missing > 0 || (lying !== null && !plain)
      };
      active.forEach((step, i) => {
        const upstream = asksPicture(step) ? active.slice(0, i) : [];
        const known = [
          stepKey(step),
          place,
          pinKey([...upstream, step], pins),
          ...upstream.map(stepKey)
        ].join('|');
        const before = { ...plan, steps: [...prepared] };
        prepared.push(this.steps.get(known, () => this.prepare(step, before, pins, depth)));
      });
      return plan;
    });
  }

  private prepare(step: SourceStep, before: Plan, pins: readonly Pin[], depth: number): PreparedStep {
    const op = opOf(step.op);
    const { model, channels } = actsOn(step);
    const on = modelOf(model);
    const listed = on.channels.map((c) => channels.includes(c.letter));
    const given: Given = {
      model: on,
      channels: on.channels.filter((_, c) => listed[c]),
      analysis: () => analysisPlanes(before, this.goOn),
      pins: () => readPins(before, pinsRead([step], pins))
    };
    const idle = op.idle?.(step.params) ?? false;
    const coefficients: unknown = op.prepare(step.params, given);
    const beside = new BesideStep(step, before, this.frame, (picture, lying) => {
      if (depth > DEEPEST) throw new DocumentError('Pictures refer to each other without end.');
      return this.plannerOf(picture.frame).plan(picture.steps, picture.pins, lying, depth + 1);
    });
    const where = step.where && beside.mask(step.where);
    const taken = (op.takes?.(step.params) ?? []).map((what): PreparedTaken =>
      'mask' in what
        ? { mask: beside.mask(what.mask) }
        : { picture: beside.picture(what.picture, what.shift) }
    );
    const masks = [...(where ? [where] : []), ...taken.flatMap((t) => (t.mask ? [t.mask] : []))];
    return {
      op,
      coefficients,
      idle,
      reach: (scale) =>
        Math.max(idle ? 0 : (op.reach?.(step.params, scale) ?? 0), ...masks.map((mask) => mask.reach(scale))),
      on,
      listed,
      ...step.blend,
      where,
      maskKey: step.maskKey ?? JSON.stringify(step.where),
      beside: beside.plans,
      taken
    };
  }
}

/** Finds what one step refers to: the pictures beside it, laid on its own, and named masks. */
class BesideStep {
  readonly plans: Plan[] = [];
  private readonly places = new Map<string, number>();
  private readonly masks = new Map<string, PreparedMask>();

  constructor(
    private readonly step: SourceStep,
    private readonly before: Plan,
    private readonly frame: Frame,
    private readonly plan: (picture: SourcePicture, lying: Geometry) => Plan
  ) {}

  mask(mask: Mask, within: readonly string[] = []): PreparedMask {
    return prepareMask(mask, {
      geometry: this.before.geometry,
      picture: (reference) => this.picture(reference),
      mask: (id) => {
        const found = this.step.beside?.masks[id];
        if (!found || within.includes(id))
          throw new DocumentError(`There is no mask “${id}” to be had here.`);
        const known = this.masks.get(id) ?? this.mask(found, [...within, id]);
        this.masks.set(id, known);
        return known;
      }
    });
  }

  /** The place of a picture among those beside the step. */
  picture(reference: Reference, shift?: readonly [number, number]): number {
    const key = `${referenceKey(reference)} ${shift?.join() ?? ''}`;
    const known = this.places.get(key);
    if (known !== undefined) return known;
    const picture = this.step.beside?.pictures[referenceKey(reference)];
    if (!picture) throw new DocumentError(`There is no picture “${reference.picture}” to be had here.`);
    const { geometry } = this.before;
    const lying =
      shift && (shift[0] !== 0 || shift[1] !== 0)
        ? { ...geometry, toFrame: multiply(translation(...shift), geometry.toFrame) }
        : geometry;
    const plan = this.plan(picture, lying);
    const { width, height } = plan.frame;
    if (width !== this.frame.width || height !== this.frame.height) {
      throw new DocumentError(
        `The picture “${picture.name}” is ${width} × ${height} pixels and this one ${this.frame.width} × ${this.frame.height}: a step takes only from pictures of its own size.`
      );
    }
    this.places.set(key, this.plans.length);
    this.plans.push(plan);
    return this.plans.length - 1;
  }
}

/** Means of coded RGB under the pins, at full size; pins beside the picture are left out. */
export function readPins(plan: Plan, pins: readonly Pin[]): PinReading[] {
  return pins.flatMap(({ id, name, role, size, x, y }) => {
    const rgb = meanAround(plan, { x: x + 0.5, y: y + 0.5 }, size);
    return rgb ? [{ id, name, role, size, rgb }] : [];
  });
}
