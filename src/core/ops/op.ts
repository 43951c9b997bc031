import type { z } from 'zod';
import type { Channel, ColourModel, Encoding, ModelId, Planes } from '../colour';
import type { Matrix3 } from '../colour/xyz';
import type { Mask, Reference } from '../document/mask';
import type { PinRole } from '../document/pins';
import type { SourceStep, Step } from '../document/step';
import type { Table } from '../lut/table';
import type { Seen } from '../measure/seen';
import type { Field } from '../spatial/field';
import type { Geometry } from '../raster/geometry';
import type { Rect } from '../raster/raster';

/** The rectangle a kernel works on: planes of RGB (or, for a plane op, of the stored values of its channels). */
export interface Patch extends Field {
  readonly planes: Planes;
  /** Whether RGB is coded or linear in what comes into the step; its models, `lum` and `light` follow it. */
  readonly encoding: Encoding;
  /** Pixels of this level a full-size pixel: 1, ½, ¼ … */
  readonly scale: number;
  /** The pictures and masks that the op asked for by `takes`, in that order: a picture's three planes of RGB, a mask's one. */
  readonly taken: readonly Planes[];
  /** For each of those, where it is missing or does not reach, so that it has no effect there; null where it is whole. */
  readonly absent: readonly (readonly number[] | null)[];
  /** To be called now and then by a kernel that takes long; what it throws ends it. */
  readonly goOn?: () => void;
  /** Stored values of `planes` that others need as well, where there are any who do: computed once, not to be written to. */
  readonly shared?: { model(model: ColourModel): Planes };
}

/** Writes the stored values of a patch of RGB in a model into `out`. */
export function readModel(
  { planes, encoding, shared, width, height }: Patch,
  model: ColourModel,
  out: Planes
): void {
  const n = width * height;
  if (shared) shared.model(model).forEach((plane, c) => out[c].set(plane.subarray(0, n)));
  else model.kernels[encoding].fromRgb(planes, out, n);
}

/**
 * What an op takes from elsewhere: another picture (moved by so many full-size pixels; or one that is only looked at while the step is
 * solved), a mask on its own input, or a table.
 */
export type Taken =
  | {
      readonly picture: Reference;
      readonly shift?: readonly [number, number];
      readonly whileSolving?: true;
    }
  | { readonly mask: Mask }
  | { readonly table: string };

/** What a pin reads in the input of a step: the mean of RGB over its square. */
export interface PinReading {
  readonly id: string;
  readonly name: string;
  readonly role: PinRole;
  /** Side of its square in full-size pixels; also its weight where pins are weighed. */
  readonly size: number;
  readonly rgb: readonly [number, number, number];
}

/** Where a step stands: what it acts on, and what comes into it. */
export interface Given {
  /** The model and the channels of the step's On, in the model's order. */
  readonly model: ColourModel;
  readonly channels: readonly Channel[];
  readonly encoding: Encoding;
  /** A table that the op takes, by its id. @throws DocumentError where it is not there */
  tableOf(id: string): Table;
}

/** A coded picture, and the channels of a model. */
export const givenFor = (model: ColourModel, channels: readonly Channel[] = model.channels): Given => ({
  model,
  channels,
  encoding: 'coded',
  tableOf: (id) => {
    throw new RangeError(`there is no table “${id}” here`);
  }
});

/** What a step that is being solved may ask of the picture that comes into it. */
export interface Asked extends Given {
  /** The analysis raster: the same for every region and zoom. Yields how much of it is done, 0…1. */
  analysis(): Solving<Seen>;
  /** What comes in, at full size. */
  readonly size: { readonly width: number; readonly height: number };
  /** A part of it at full size; copies. */
  region(rect: Rect): Seen;
  /** The same two of a picture that the op takes, lying as the step's own input does. */
  analysisOf(picture: Reference): Solving<Seen>;
  regionOf(picture: Reference, rect: Rect): Seen;
  /** What the pins of the roles that `readsPins` names read. */
  pins(): readonly PinReading[];
}

/** Work that tells how far it is, 0…1, whenever it may be taken back. */
export type Solving<S> = Generator<number, S, void>;

/**
 * Looking at the whole picture in parts that need nothing of each other, so that any number of workers can: `N` is what the op needs, `P`
 * what a part is, `R` what is found in it, `T` what all of it comes to. All of it is plain data.
 */
export interface Stage<N = unknown, P = unknown, R = unknown, T = unknown> {
  parts(need: N, size: Asked['size']): readonly P[];
  /** @param before what the stages before came to */
  part(need: N, asked: Asked, part: P, before: readonly unknown[]): Solving<R>;
  /** @param found in the order of the parts */
  together(need: N, found: readonly R[]): T;
}
export const defineStage = <N, P, R, T>(stage: Stage<N, P, R, T>): Stage<N> => stage as Stage<N>;

/**
 * One operation. `P` are its parameters as stored, `S` what it has to know of the whole picture, by what `N` tells of the
 * parameters, `C` the coefficients that `prepare` makes of both once, before any tile is computed.
 */
export interface Op<P = unknown, C = unknown, S = unknown, N = unknown> {
  readonly id: string;
  readonly title: string;
  /** One line on what it is for. */
  readonly purpose: string;
  /** What people call what it does, beside its title: it is found by them. */
  readonly words: readonly string[];
  /** A line under its panel, where there is something to know. */
  readonly remark?: string;
  readonly params: z.ZodType<P>;
  /**
   * `plane`: the kernel gets the listed channels of On, each as a grey plane in its stored values. `colour`: it gets
   * three planes of RGB and makes three. `geometry`: it moves pixels, by `geometry`; its kernel leaves colours alone.
   * `path`: the steps inside it make what it makes.
   */
  readonly kind: 'plane' | 'colour' | 'geometry' | 'path';
  /** The model whose channels the op works in when a step names none. */
  ownModel(params: P): ModelId;
  /** What the op takes from elsewhere. */
  takes?(params: P): readonly Taken[];
  /** Its parameters with each mask in them put through `change`; for an op that takes masks. */
  mapMasks?(params: P, change: (mask: Mask) => Mask): P;
  /** What it does to a sample depends on where that stands. */
  readonly byPlace?: true;
  /**
   * How many pixels around a pixel its result depends on, in a level of `scale`; left out for a pixel-wise op.
   * @param coefficients null where nothing is prepared, and only whether it depends on others is asked
   */
  reach?(params: P, scale: number, coefficients: C | null): number;
  /**
   * Whether its result depends on pixels so far away that the smaller levels show it by a picture of full size once that is
   * computed, and do not compute it themselves.
   */
  settles?(params: P): boolean;
  /** The Change part of the step's sentence. */
  sentence(params: P): string;
  /** @param solution what `solve` found; null where it `needs` nothing */
  prepare(params: P, given: Given, solution: S | null): C;
  /** Those of its parameters that `solve` goes by; null where the picture need not be asked. */
  needs?(params: P): N | null;
  /**
   * What it has to know of the whole picture that comes into it: plain data that goes to every worker. Found once for a
   * picture, and anew where what it needs, what comes in, or a pin that it reads has changed.
   */
  solve?(need: N, asked: Asked, stages: readonly unknown[]): Solving<S>;
  /** What is looked at in parts before it is solved, one after another. */
  readonly stages?: readonly Stage<N>[];
  /** Roles of the pins that `solve` reads. */
  readsPins?(params: P): readonly PinRole[];
  /** What was solved, in numbers for a person, where there is something to tell. */
  solved?(coefficients: C): object;
  /** Whether its candidate is the input itself, which is then not put through the op's model and back. */
  idle?(params: P): boolean;
  /** Writes the candidate for `source` into `out` (which may be the source itself where there is no reach). */
  kernel(source: Patch, coefficients: C, out: Planes): void;
  /** Multiplies how much of the candidate joins its base, sample by sample, by what it finds in the base. */
  limit?(source: Patch, coefficients: C, amount: Float32Array): void;
  /** The encoding of its candidate, where that is not that of its input. */
  encodingAfter?(params: P): Encoding;
  /** For a `path` op: the steps inside it. */
  inside?(params: P): readonly SourceStep[];
  /** The same parameters with other steps inside. */
  withInside?(params: P, steps: readonly Step[]): P;
  /** For a geometry op: where its pixels come from. */
  geometry?(params: P, before: Geometry): Geometry;
  /**
   * For a geometry op that brings a picture onto another one: the map from places of that other to those of the head, both of `size`;
   * null where it does not move. Of several in a path the last counts.
   */
  lies?(
    params: P,
    size: { readonly width: number; readonly height: number },
    solution: S | null
  ): Matrix3 | null;
  /** More that must hold of a step's On, told as a reason; null where it is well. */
  refuses?(params: P, model: ColourModel): { path: PropertyKey[]; message: string } | null;
}

/**
 * The parameters of a step in the type of its op; a step has been read by its op's schema.
 * @throws RangeError for a step of another op
 */
export function paramsOf<P>(
  op: Pick<Op<P>, 'id' | 'params'>,
  step: { readonly op: string; readonly params: unknown }
): P {
  if (step.op !== op.id) throw new RangeError(`“${step.op}” is no step of “${op.id}”.`);
  return step.params as P;
}

/** The kernel of an op that moves pixels. */
export function coloursLeft({ planes }: Patch, _: unknown, out: Planes): void {
  planes.forEach((plane, c) => {
    if (out[c] !== plane) out[c].set(plane);
  });
}

/** Keeps the types of one op's parts together and hands it to the list as an `Op`. */
export const defineOp = <P, C, S = null, N = null>(op: Op<P, C, S, N>): Op<P, C, S, N> => op;
