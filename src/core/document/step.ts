import { z } from 'zod';
import { isAllTones } from '../blend/limits';
import { blendModes } from '../blend/modes';
import { modelOf, models, type ModelId } from '../colour';
import type { SourceHead } from '../heads';
import type { Table } from '../lut/table';
import { findOp, opOf } from '../ops';
import { contentKey } from './content-key';
import { idSchema, maskSchema, type Mask } from './mask';
import type { Pin } from './pins';
import { shortened } from './problem';
import { trapezoidSchema } from './tones';

export const MOST_STEPS = 500;

/** A step that no document holds: of an inner op of the house. */
export const stepOfHouse = (op: string, params: object): Step => ({
  ...{ id: op, op, enabled: true, params },
  blend: { mode: 'normal', opacity: 1, under: [0, 0, 1, 1], over: [0, 0, 1, 1] },
  where: null
});

const modelId = z.enum(models.map((m) => m.id) as [ModelId, ...ModelId[]]);

const on = z
  .strictObject({
    model: modelId,
    channels: z.array(z.string()).min(1, 'names no channel').max(8, 'takes at most 8 channels')
  })
  .superRefine(({ model, channels }, context) => {
    const letters = modelOf(model).channels.map((c) => c.letter);
    channels.forEach((letter, i) => {
      if (letters.includes(letter)) return;
      const message = `“${shortened(letter)}” is no channel of ${modelOf(model).title}; use ${letters.join(', ')}`;
      context.addIssue({ code: 'custom', path: ['channels', i], message });
    });
  });

const blend = z
  .strictObject({
    mode: z.enum(blendModes).default('normal'),
    opacity: z.number().min(0).max(1).default(1),
    under: trapezoidSchema.default([0, 0, 1, 1]),
    over: trapezoidSchema.default([0, 0, 1, 1])
  })
  .prefault({});

const isPlainBlend = ({ mode, opacity, under, over }: z.infer<typeof blend>): boolean =>
  mode === 'normal' && opacity === 1 && isAllTones(under) && isAllTones(over);

const stepShape = z.strictObject({
  id: idSchema,
  op: z.string(),
  name: z.string().max(200).optional(),
  enabled: z.boolean().default(true),
  on: on.optional(),
  params: z.unknown(),
  blend,
  where: maskSchema.nullable().default(null)
});
type Shaped = z.infer<typeof stepShape>;
type Context = z.RefinementCtx;
type Parsed = Omit<Shaped, 'params'> & { params: object };

const refuse = (context: Context, path: PropertyKey[], message: string): never => {
  context.addIssue({ code: 'custom', path, message });
  return z.NEVER;
};

/** What a schema makes of a part of a step; what is wrong with it is told as the step's own. */
function part<S extends z.ZodType>(
  schema: S,
  value: unknown,
  at: readonly PropertyKey[],
  context: Context
): z.infer<S> | undefined {
  const result = schema.safeParse(value, { reportInput: true });
  if (result.success) return result.data;
  for (const { path, ...issue } of result.error.issues)
    context.issues.push({ ...issue, path: [...at, ...path], input: issue.input } as never);
  return undefined;
}

/** Groups that may stand inside one another. */
export const DEEPEST_GROUP = 8;

/** Parses the parameters by the op's own schema, and the steps inside it by this one. */
function parsed(step: Shaped, depth: number, context: Context): Parsed {
  const op = findOp(step.op);
  if (!op) return refuse(context, ['op'], `“${shortened(step.op)}” is no step`);
  if (step.params === undefined) return refuse(context, ['params'], 'is missing (object expected)');
  let params = part(op.params, step.params, ['params'], context) as object | undefined;
  if (!params) return z.NEVER;
  const inside = op.inside?.(params) ?? [];
  if (inside.length > 0) {
    if (depth === DEEPEST_GROUP)
      return refuse(context, ['params'], `stands inside more than ${DEEPEST_GROUP} groups`);
    const steps = part(z.array(stepAt(depth + 1)), inside, ['params', 'steps'], context);
    if (!steps) return z.NEVER;
    const moving = steps.find(movesPixels);
    if (moving)
      return refuse(context, ['params'], `“${moving.op}” moves pixels and can’t stand inside another step`);
    params = op.withInside!(params, steps) as object;
  }
  if (op.kind === 'geometry') {
    if (step.on) return refuse(context, ['on'], `“${step.op}” moves all channels together; leave “on” out`);
    if (!isPlainBlend(step.blend)) {
      const message = `“${step.op}” moves the picture and can’t be blended; leave “blend” out`;
      return refuse(context, ['blend'], message);
    }
    if (step.where)
      return refuse(context, ['where'], `“${step.op}” moves all of the picture; leave “where” out`);
    return { ...step, params };
  }
  const reason = op.refuses?.(params, modelOf(step.on?.model ?? op.ownModel(params)));
  return reason ? refuse(context, ['params', ...reason.path], reason.message) : { ...step, params };
}

const atDepth: z.ZodType<Parsed>[] = [];
const stepAt = (depth: number): z.ZodType<Parsed> =>
  (atDepth[depth] ??= stepShape.transform((step, context) => parsed(step, depth, context)));

/** One step of a path; its parameters are parsed by its op's own schema. */
export const stepSchema = stepAt(0);
export type Step = z.infer<typeof stepSchema>;

const movesPixels = ({ op }: Pick<Step, 'op'>): boolean => findOp(op)?.kind === 'geometry';

/** Places of the steps that move pixels and yet stand behind one that does not. */
export function outOfOrder(steps: readonly Pick<Step, 'op'>[]): number[] {
  const first = steps.findIndex((step) => !movesPixels(step));
  return steps.flatMap((step, i) => (first >= 0 && i > first && movesPixels(step) ? [i] : []));
}
export const OUT_OF_ORDER = 'moves pixels and must stand before all other steps';

/** How many steps a path has, those inside others counted. */
export const countSteps = (steps: readonly Step[]): number =>
  steps.reduce((sum, step) => sum + 1 + countSteps(opOf(step.op).inside?.(step.params) ?? []), 0);

/** The steps of a path: those that move pixels stand before all others. */
export const pathSchema = z
  .array(stepSchema)
  .max(MOST_STEPS, `takes at most ${MOST_STEPS} steps`)
  .superRefine((steps, context) => {
    if (countSteps(steps) > MOST_STEPS) {
      const message = `takes at most ${MOST_STEPS} steps, those inside groups counted`;
      context.addIssue({ code: 'custom', path: [], message });
    }
    for (const i of outOfOrder(steps)) {
      context.addIssue({ code: 'custom', path: [i], message: `“${steps[i].op}” ${OUT_OF_ORDER}` });
    }
  });

/** What a person calls a step. */
export const titleOf = ({ name, op }: Pick<Step, 'name' | 'op'>): string => name ?? opOf(op).title;

/** The model and channels a step acts on; all of its op's own model where it names none. */
export function actsOn(step: Step): { model: ModelId; channels: string[] } {
  if (step.on) return step.on;
  const model = opOf(step.op).ownModel(step.params);
  return { model, channels: modelOf(model).channels.map((c) => c.letter) };
}

/** A step together with what it refers to, so that it can be computed without its document. */
export interface SourceStep extends Step {
  /** What of it counts for the picture, with all it refers to; left out where that is the step's own content. */
  readonly key?: string;
  /** The same for its mask alone. */
  readonly maskKey?: string;
  readonly beside?: Beside;
}

/** What a step refers to: pictures by `referenceKey`, named masks and tables by id. */
export interface Beside {
  readonly pictures: Readonly<Record<string, SourcePicture>>;
  readonly masks: Readonly<Record<string, Mask>>;
  readonly tables: Readonly<Record<string, Table>>;
}

/** A picture as it is computed, without its document. */
export interface PictureSource {
  readonly head: SourceHead;
  readonly steps: readonly SourceStep[];
  /** Those of its pins from which its steps are solved. */
  readonly pins: readonly Pin[];
}

/** A picture at one place of its path: the steps are those that lead there. */
export interface SourcePicture extends PictureSource {
  readonly name: string;
}

const stepKeys = new WeakMap<Step, string>();

/** What of a step counts for the picture, as a key of fixed length; made once, as steps are replaced and never changed. */
export function stepKey(step: SourceStep): string {
  if (step.key !== undefined) return step.key;
  let key = stepKeys.get(step);
  if (key === undefined) {
    const content = JSON.stringify([step.op, step.params, step.on, step.blend, step.where]);
    stepKeys.set(step, (key = contentKey(content)));
  }
  return key;
}
