import { z } from 'zod';
import { isAllTones } from '../blend/limits';
import { blendModes } from '../blend/modes';
import { modelOf, models, type ModelId } from '../colour';
import { findOp, laterOps, opOf } from '../ops';
import { contentKey } from './content-key';
import { idSchema, maskSchema, type Mask } from './mask';
import type { Pin } from './pins';
import { shortened } from './problem';
import { trapezoidSchema } from './tones';

export const MOST_STEPS = 500;

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

/** One step of a path; its parameters are parsed by its op's own schema. */
export const stepSchema = z
  .strictObject({
    id: idSchema,
    op: z.string(),
    name: z.string().max(200).optional(),
    enabled: z.boolean().default(true),
    on: on.optional(),
    params: z.unknown(),
    blend,
    where: maskSchema.nullable().default(null)
  })
  .transform((step, context) => {
    const refuse = (path: PropertyKey[], message: string): never => {
      context.addIssue({ code: 'custom', path, message });
      return z.NEVER;
    };
    const op = findOp(step.op);
    if (!op) {
      return laterOps.includes(step.op)
        ? refuse(['op'], `the step “${step.op}” is not built into this version of Kromba yet`)
        : refuse(['op'], `“${shortened(step.op)}” is no step`);
    }
    if (step.params === undefined) return refuse(['params'], 'is missing (object expected)');
    const params = op.params.safeParse(step.params, { reportInput: true });
    if (!params.success) {
      for (const { path, ...issue } of params.error.issues) {
        context.issues.push({ ...issue, path: ['params', ...path], input: issue.input } as never);
      }
      return z.NEVER;
    }
    const parsed = { ...step, params: params.data as object };
    if (op.kind === 'geometry') {
      if (step.on) return refuse(['on'], `“${step.op}” moves all channels together; leave “on” out`);
      if (!isPlainBlend(step.blend)) {
        return refuse(['blend'], `“${step.op}” moves the picture and can’t be blended; leave “blend” out`);
      }
      if (step.where) return refuse(['where'], `“${step.op}” moves all of the picture; leave “where” out`);
      return parsed;
    }
    const reason = op.refuses?.(parsed.params, modelOf(step.on?.model ?? op.ownModel(parsed.params)));
    return reason ? refuse(['params', ...reason.path], reason.message) : parsed;
  });
export type Step = z.infer<typeof stepSchema>;

/** The steps of a path: those that move pixels stand before all others. */
export const pathSchema = z
  .array(stepSchema)
  .max(MOST_STEPS, `takes at most ${MOST_STEPS} steps`)
  .superRefine((steps, context) => {
    const first = steps.findIndex((step) => findOp(step.op)?.kind !== 'geometry');
    steps.forEach((step, i) => {
      if (first < 0 || i < first || findOp(step.op)?.kind !== 'geometry') return;
      const message = `“${step.op}” moves pixels and must stand before all other steps`;
      context.addIssue({ code: 'custom', path: [i], message });
    });
  });

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

/** What a step refers to: pictures by `referenceKey`, named masks by id. */
export interface Beside {
  readonly pictures: Readonly<Record<string, SourcePicture>>;
  readonly masks: Readonly<Record<string, Mask>>;
}

/** A picture at one place of its path: the content hash of its frame and the steps that lead there. */
export interface SourcePicture {
  readonly name: string;
  readonly frame: string;
  readonly steps: readonly SourceStep[];
  /** Those of its pins from which its steps are solved. */
  readonly pins: readonly Pin[];
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
