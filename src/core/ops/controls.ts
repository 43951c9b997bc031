import { z } from 'zod';
import type { Op } from './op';

/** How a number of a step is shown, beside the bounds and the default that its schema has. */
export interface Shown {
  readonly label: string;
  readonly unit: '%' | 'px' | '°' | '';
  /** Ends of the slider in the shown unit, where it does not go as far as may be typed. */
  readonly slider?: readonly [number, number];
  readonly step?: number;
  readonly digits?: number;
  /** The slider's places are even in the number's logarithm. */
  readonly log?: boolean;
  /** What one shown unit is worth in the parameter: 0.01 where a part is shown in %. */
  readonly worth?: number;
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

type Values = Record<string, number | Record<string, number>>;

/** What a step's controls hold, by their keys: one number, or one for each channel. */
export const valuesOf = ({ params }: { readonly params: unknown }): Readonly<Values> => params as Values;

/** Puts a value into a step. */
export function setValue({ params }: { readonly params: unknown }, key: string, value: Values[string]): void {
  (params as Values)[key] = value;
}

/** A schema without what stands around it: defaults, and what is read under an earlier name. */
function bare(schema: z.ZodType): z.ZodType {
  if (schema instanceof z.ZodDefault || schema instanceof z.ZodPrefault)
    return bare(schema.unwrap() as z.ZodType);
  return schema instanceof z.ZodPipe ? bare(schema.out as z.ZodType) : schema;
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
