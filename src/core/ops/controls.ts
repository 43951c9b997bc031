import { z } from 'zod';
import type { Op } from './op';

/** How a number of a step is shown, beside the bounds and the default that its schema has. */
export interface Shown {
  readonly label: string;
  readonly unit: '%' | 'px' | '°' | '';
  /** Ends of the slider in the shown unit, where it does not go as far as may be typed. */
  readonly slider?: readonly [number, number];
  readonly step?: number;
  /** What the slider moves by, where that is not a step. */
  readonly grain?: number;
  readonly digits?: number;
  /** The slider's places are even in the number's logarithm. */
  readonly log?: boolean;
  /** What one shown unit is worth in the parameter: 0.01 where a part is shown in %. */
  readonly worth?: number;
  /** It counts something: a channel's own unit is not its unit. */
  readonly times?: boolean;
}

/** What the numbers of all ops are called and how they are shown. */
export const shown = z.registry<Shown>();

/** One number of a step, as a panel shows it; all but `worth` in the shown unit. */
export interface Control extends Omit<Shown, 'slider' | 'worth'> {
  readonly key: string;
  readonly min: number;
  readonly max: number;
  readonly least: number;
  readonly most: number;
  readonly worth: number;
  /** In the parameter's own unit. */
  readonly usual: number;
  /** One number for all channels, or one for each. */
  readonly each: boolean;
}

/** A schema without what stands around it: defaults, null, and what is read under an earlier name. */
export function bare(schema: z.ZodType): z.ZodType {
  if (
    schema instanceof z.ZodDefault ||
    schema instanceof z.ZodPrefault ||
    schema instanceof z.ZodNullable ||
    schema instanceof z.ZodOptional
  )
    return bare(schema.unwrap() as z.ZodType);
  return schema instanceof z.ZodPipe ? bare(schema.out as z.ZodType) : schema;
}

/** The way to a number in a step's parameters, or in another record of the document: keys, and places in lists. */
export type ControlPath = readonly (string | number)[];

/** The schema at the end of a way, with what stands around it. @throws RangeError where there is none */
function schemaAt(schema: z.ZodType, path: ControlPath): z.ZodType {
  return path.reduce<z.ZodType>((whole, key) => {
    const at = bare(whole);
    if (at instanceof z.ZodObject && key in at.shape) return at.shape[key] as z.ZodType;
    if (at instanceof z.ZodRecord) return at.valueType as z.ZodType;
    if (at instanceof z.ZodArray) return at.element as z.ZodType;
    if (at instanceof z.ZodTuple) return at.def.items[Number(key)] as z.ZodType;
    // One number for all channels, or one for each.
    if (at instanceof z.ZodUnion) return schemaAt(at.options.at(-1) as z.ZodType, [key]);
    throw new RangeError(`there is nothing at ${path.join('.')}`);
  }, schema);
}

/** How the number at the end of a way is shown; undefined where nothing says so. */
export function shownAt(schema: z.ZodType, path: ControlPath): Shown | undefined {
  try {
    const field = bare(schemaAt(schema, path));
    return shown.get(field instanceof z.ZodUnion ? bare(field.options[0] as z.ZodType) : field);
  } catch {
    return undefined;
  }
}

/** What a field holds where nothing is given. */
function defaultOf(field: z.ZodType): unknown {
  return field instanceof z.ZodDefault || field instanceof z.ZodPrefault ? field.def.defaultValue : 0;
}

/** The number at the end of a way as a panel shows it. @throws RangeError where its schema does not say how */
export function controlAt(schema: z.ZodType, path: ControlPath): Control {
  const field = schemaAt(schema, path);
  const [found] = controlOf(String(path.at(-1)), field, defaultOf(field));
  if (!found) throw new RangeError(`nothing says how ${path.join('.')} is shown`);
  return found;
}

type Node = Record<string | number, unknown>;
const nodeAt = (params: unknown, path: ControlPath): Node =>
  path.reduce<Node>((node, key) => node[key] as Node, params as Node);

/** One number, or one for each channel by its letter. */
export type Value = number | Readonly<Record<string, number>>;

/** What stands at the end of a way. */
export const valueAt = <V extends Value = number>(params: unknown, path: ControlPath): V =>
  nodeAt(params, path.slice(0, -1))[path.at(-1)!] as V;

export function putAt(params: unknown, path: ControlPath, value: Value): void {
  nodeAt(params, path.slice(0, -1))[path.at(-1)!] = value;
}

function controlOf(key: string, field: z.ZodType, usual: unknown): Control[] {
  const schema = bare(field);
  const each = schema instanceof z.ZodUnion;
  const number = each ? bare(schema.options[0] as z.ZodType) : schema;
  const how = number instanceof z.ZodNumber ? shown.get(number) : undefined;
  if (!(number instanceof z.ZodNumber) || !how) return [];
  const { slider, worth = 1, ...rest } = how;
  const [least, most] = [number.minValue! / worth, number.maxValue! / worth];
  const [min, max] = slider ?? [least, most];
  return [{ ...rest, key, min, max, least, most, worth, usual: usual as number, each }];
}

/** The numbers of an op that say how they are shown, in the order of its schema. */
export function controlsOf({ params }: Pick<Op, 'params'>): Control[] {
  const schema = bare(params);
  if (!(schema instanceof z.ZodObject)) return [];
  const usual = params.parse({}) as Record<string, unknown>;
  return Object.entries(schema.shape).flatMap(([key, field]) =>
    controlOf(key, field as z.ZodType, usual[key])
  );
}
