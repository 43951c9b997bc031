import type { Trapezoid } from '../blend/limits';
import type { BlendMode } from '../blend/modes';
import type { ColourModel, Encoding } from '../colour';
import { multiply, type Matrix3 } from '../colour/xyz';
import type { PictureSource, Step } from '../document';
import type { HeadShape } from '../heads';
import type { PreparedMask } from '../mask/prepare';
import { opOf, type Op } from '../ops';
import { lyingPlain, type Geometry } from '../raster/geometry';
import type { Raster } from '../raster/raster';

interface Size {
  readonly width: number;
  readonly height: number;
}

/** A step made ready for its tiles. */
export interface PreparedStep {
  readonly op: Op;
  readonly coefficients: unknown;
  /** Encoding of what comes in, and of what goes out. */
  readonly encoding: Encoding;
  readonly encodingAfter: Encoding;
  /** Steps inside, of which its candidate is made; of a `path` op alone. */
  readonly inside: readonly PreparedStep[];
  /** Its candidate is the input itself. */
  readonly idle: boolean;
  /** Its result is kept over the whole picture, once that is computed. */
  readonly settles: boolean;
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

export type PreparedTaken =
  { readonly picture: number; readonly mask?: undefined } | { readonly mask: PreparedMask };

/** What stands at the beginning of a path, ready to be read anywhere and at any level. */
export interface Head extends HeadShape {
  /** What it was solved to before it could be read; null where it need not be. */
  readonly solution: object | null;
  /** What its samples depend on. */
  readonly key: string;
  /** The pictures that it is made of. */
  readonly beside: readonly Plan[];
  /** Fills `out` with samples of a level; `pictures` are those beside it over the same rectangle. */
  read(level: number, out: Raster, pictures: readonly Raster[]): void;
}

/** How a picture lies on its head, but for what brings it onto another one: that is its own, wherever it lies. */
export interface Lying {
  readonly common: Geometry;
  /** What stands where the head does not reach: black, or missing in a picture that lies beside another. */
  readonly beyond: number;
}

/** Where the samples of a picture come from. */
export const placeKey = ({
  geometry: { toFrame, width, height },
  beyond
}: {
  readonly geometry: Geometry;
  readonly beyond: number;
}): string => JSON.stringify([toFrame, width, height, String(beyond)]);

/** A path over its head, ready to be evaluated anywhere and at any level. */
export interface Plan extends Lying {
  /** `common` with what brings it onto another one. */
  readonly geometry: Geometry;
  /** What it is the plan of; the steps that are off left out. */
  readonly source: PictureSource;
  readonly head: Head;
  /** The picture lies on its head as it is: pixels are read, not resampled. */
  readonly plain: boolean;
  /** Whether samples may be missing. */
  readonly mayMiss: boolean;
  /** Whether results over the whole picture are kept of it, or of a picture that it takes from. */
  readonly mayWait: boolean;
  readonly steps: readonly PreparedStep[];
  /** What the samples after the first `count` steps depend on. */
  keyAfter(count: number): string;
}

/** The encoding of a picture after the first `count` steps of its plan. */
export const encodingAt = ({ head, steps }: Plan, count = steps.length): Encoding =>
  count > 0 ? steps[count - 1].encodingAfter : head.encoding;

/** The same picture after the first `count` of its steps. */
export const planTo = (plan: Plan, count: number): Plan => ({ ...plan, steps: plan.steps.slice(0, count) });

/** Size of the picture in pixels of a level. */
export function planSize(
  { geometry }: Pick<Plan, 'geometry'>,
  level: number
): { width: number; height: number } {
  return { width: Math.ceil(geometry.width / 2 ** level), height: Math.ceil(geometry.height / 2 ** level) };
}

/** How a picture of `steps` lies on a head of this size: what its straighten steps make of it together. */
export function commonGeometry(head: Size, steps: readonly Step[]): Geometry {
  let geometry = lyingPlain(head);
  for (const step of steps) {
    if (step.enabled) geometry = opOf(step.op).geometry?.(step.params, geometry) ?? geometry;
  }
  return geometry;
}

/** The step of a path that brings it onto another picture. */
export const bringingStep = <S extends Step>(steps: readonly S[]): S | undefined =>
  steps.findLast(({ op, enabled }) => enabled && opOf(op).lies);

/** A picture that lies so, brought onto another one by a map from places of that other to those of its head. */
export const brought = (common: Geometry, map: Matrix3 | null): Geometry =>
  map ? { ...common, toFrame: multiply(map, common.toFrame) } : common;

/** The same with what brings it onto another one, as far as the step itself says where that is. */
export function pictureGeometry(head: Size, steps: readonly Step[]): Geometry {
  const step = bringingStep(steps);
  const common = commonGeometry(head, steps);
  return brought(common, step ? opOf(step.op).lies!(step.params, head, null) : null);
}
