import { z } from 'zod';

/** Parameter schemas that ops share: each names the unit in which a wrong value is told. */
const number = z.number({ error: 'must be a number' });

/** Radii and the like, in pixels of the full-size picture. */
export const pixels = (least: number, most: number): z.ZodNumber =>
  number.min(least, `must be at least ${least} px`).max(most, `must be at most ${most} px`);

/** How a radius is shown. */
export const asRadius = { label: 'radius', unit: 'px', log: true, step: 1, digits: 1 } as const;

export const percent = (least: number, most: number): z.ZodNumber =>
  number.min(least, `must be at least ${least} %`).max(most, `must be at most ${most} %`);

export const degrees = (least = -360, most = 360): z.ZodNumber =>
  number.min(least, `must be at least ${least}°`).max(most, `must be at most ${most}°`);

/** A stored value of a channel, 0…1 nominal, or a distance between two. */
export const unit = (least = 0, most = 1): z.ZodNumber =>
  number.min(least, `must be at least ${least}`).max(most, `must be at most ${most}`);

export const weight = z
  .number({ error: 'must be a number (1 is 100 %)' })
  .min(-1000, 'must be at least −1000')
  .max(1000, 'must be at most 1000');

/** A move right and down, in full-size pixels. */
export function shift(most: number): z.ZodDefault<z.ZodTuple<[z.ZodNumber, z.ZodNumber], null>> {
  const offset = number.min(-most, `must be at least −${most} px`).max(most, `must be at most ${most} px`);
  return z.tuple([offset, offset]).default([0, 0]);
}

export const light = z.enum(['coded', 'linear']).default('coded');

/** One number for all channels, or one for each by its letter. */
export const oneOrEach = <S extends z.ZodType>(one: S): z.ZodUnion<[S, z.ZodRecord<z.ZodString, S>]> =>
  z.union([one, z.record(z.string(), one)], { error: 'must be a number, or one for each channel' });

/** The value of a channel where one number stands for all or one for each; `absent` where it has none. */
export function valueOf(
  given: number | Readonly<Record<string, number>>,
  letter: string,
  absent: number
): number {
  return typeof given === 'number' ? given : (given[letter] ?? absent);
}

interface Lettered {
  readonly title: string;
  readonly channels: readonly { readonly letter: string }[];
}

/** What is wrong with a parameter whose keys are channels of the step's On (or one of `more`); null where nothing is. */
export function refusedKey(
  name: string,
  value: number | Readonly<Record<string, unknown>>,
  model: Lettered,
  more: readonly string[] = []
): { path: PropertyKey[]; message: string } | null {
  if (typeof value === 'number') return null;
  const letters = [...model.channels.map((c) => c.letter), ...more];
  const key = Object.keys(value).find((k) => !letters.includes(k));
  if (key === undefined) return null;
  return {
    path: [name, key],
    message: `“${key.slice(0, 60)}” is no channel of ${model.title}; use ${letters.join(', ')}`
  };
}

/** A number as a sentence tells it: up to `digits` decimals, a true minus. */
export const said = (v: number, digits = 1): string => {
  const text = String(Math.round(Math.abs(v) * 10 ** digits) / 10 ** digits);
  return v < 0 && text !== '0' ? `−${text}` : text;
};

/** The same with its sign always there. */
export const signed = (v: number, digits = 1): string => (v > 0 ? `+${said(v, digits)}` : said(v, digits));

const MOST_PLACES = 500;
const coordinate = z.number({ error: 'must be a number' });
/** Places of the picture, [x, y] in full-size pixels. */
export const places = z
  .array(z.tuple([coordinate, coordinate]))
  .max(MOST_PLACES, `takes at most ${MOST_PLACES} places`)
  .default([]);
