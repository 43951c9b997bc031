import { z } from 'zod';
import { sourceKinds } from './mask/sources';
import { ops } from './ops';
import { bare, shown } from './ops/controls';
import { randomStream } from './random';

/** Made for tests that go over all ops: parameters and steps as their schemas allow them. */

/** Numbers that no bounds hold lie within this. */
const USUAL = 2;
const TRIES = 500;

interface From {
  readonly random: () => number;
  /** Keys of a record by channel: the letters of the step's On. */
  readonly letters: readonly string[];
}

function numberIn(schema: z.ZodNumber, random: () => number): number {
  const { slider, worth = 1 } = shown.get(schema) ?? {};
  const least = slider ? slider[0] * worth : Math.max(schema.minValue ?? -USUAL, -1e3);
  const most = slider ? slider[1] * worth : Math.min(schema.maxValue ?? USUAL, 1e3);
  const v = least + (most - least) * random();
  return schema.isInt ? Math.round(v) : v;
}

/** Anything that a schema may take, left to chance; nothing that is of another picture, and no mask. */
function anything(schema: z.ZodType, from: From): unknown {
  const { random, letters } = from;
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  if (schema instanceof z.ZodDefault || schema instanceof z.ZodPrefault)
    return random() < 0.2 ? undefined : anything(schema.unwrap() as z.ZodType, from);
  if (schema instanceof z.ZodOptional || schema instanceof z.ZodNullable) {
    const inside = bare(schema.unwrap() as z.ZodType);
    const bound = inside instanceof z.ZodObject && ('picture' in inside.shape || 'terms' in inside.shape);
    const none = schema instanceof z.ZodNullable ? null : undefined;
    return bound || random() < 0.5 ? none : anything(inside, from);
  }
  if (schema instanceof z.ZodPipe) return anything(schema.out as z.ZodType, from);
  if (schema instanceof z.ZodNumber) return numberIn(schema, random);
  if (schema instanceof z.ZodBoolean) return random() < 0.5;
  if (schema instanceof z.ZodEnum) return pick(schema.options);
  if (schema instanceof z.ZodLiteral) return pick([...schema.values]);
  if (schema instanceof z.ZodUnion) return anything(pick(schema.options as z.ZodType[]), from);
  if (schema instanceof z.ZodTuple) return schema.def.items.map((item) => anything(item as z.ZodType, from));
  if (schema instanceof z.ZodArray) {
    const list = Array.from({ length: 2 + Math.floor(2 * random()) }, () =>
      anything(schema.element as z.ZodType, from)
    );
    // Points of a curve and the like rise.
    const first = (v: unknown): number => (Array.isArray(v) ? Number(v[0]) : 0);
    return list.sort((a, b) => first(a) - first(b));
  }
  if (schema instanceof z.ZodRecord) {
    const key = bare(schema.keyType as z.ZodType);
    const keys = key instanceof z.ZodEnum ? [String(pick(key.options))] : [pick(letters)];
    return Object.fromEntries(keys.map((k) => [k, anything(schema.valueType as z.ZodType, from)]));
  }
  if (schema instanceof z.ZodObject)
    return Object.fromEntries(
      Object.entries(schema.shape).map(([k, field]) => [k, anything(field as z.ZodType, from)])
    );
  return undefined;
}

/** Parameters of an op, left to chance, as its schema takes them. @throws Error where none were found */
export function anyParams(
  op: { readonly id: string; readonly params: z.ZodType },
  from: From
): Record<string, unknown> {
  for (let i = 0; i < TRIES; i++) {
    const given = anything(op.params, from);
    if (op.params.safeParse(given).success) return given as Record<string, unknown>;
  }
  throw new Error(`No parameters of “${op.id}” were found.`);
}

interface GivenStep {
  readonly op: string;
  readonly where?: { readonly terms: readonly { readonly source: { readonly kind: string } }[] } | null;
}

/** Some steps, and one for each op and each mask source that is not among them. */
export function withEveryOp<S extends GivenStep>(steps: readonly S[]): (S | object)[] {
  const random = randomStream(12);
  const has = new Set(steps.map(({ op }) => op));
  const kinds = new Set(steps.flatMap(({ where }) => where?.terms ?? []).map(({ source }) => source.kind));
  const others = ops
    .filter(({ id, kind }) => !has.has(id) && kind !== 'geometry')
    .map((op) => ({
      id: `every-${op.id}`,
      op: op.id,
      params: anyParams(op, { random, letters: ['r', 'g', 'b'] }),
      blend: { opacity: 0.5 }
    }));
  const masked = sourceKinds
    .filter(({ kind }) => !kinds.has(kind))
    .flatMap((kind) => {
      const source = kind.fresh({ width: 960, height: 640, channel: 'lab.l', mask: null });
      return source
        ? [{ id: `every-${kind.kind}`, op: 'invert', params: {}, where: { terms: [{ source }] } }]
        : [];
    });
  return [...steps, ...others, ...masked];
}
