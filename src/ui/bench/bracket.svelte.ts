import { getContext, setContext } from 'svelte';
import { pinsOf, pinsRead, stepsTo } from '$core/document';
import { pictureGeometry } from '$core/path/plan';
import { toldShort, typed } from '../numbers';
import type { Shown } from '../viewer/shown';
import type { BenchState } from './bench.svelte';

/** A number on the screen, as it is tried at several values. */
export interface TriedNumber {
  /** What it belongs to, and what it is called. */
  readonly name: string;
  readonly unit: string;
  /** What it is. */
  now(): number;
  /** Ends of its slider, and of what may be typed. */
  readonly min: number;
  readonly max: number;
  readonly least: number;
  readonly most: number;
  readonly digits: number;
  readonly log: boolean;
  /** Gives it a value. */
  set(value: number): void;
}

export const FEWEST = 3;
export const MOST_VALUES = 9;
/** Along each side of a grid. */
export const MOST_OF_TWO = 5;

const within = ({ least, most, digits }: TriedNumber, v: number): number =>
  Math.round(Math.min(most, Math.max(least, v)) * 10 ** digits) / 10 ** digits;

/** Values spread evenly from one to another; evenly in their logarithm where the number's slider is. */
function spread(number: TriedNumber, from: number, to: number, count: number): number[] {
  const byRatio = number.log && from >= 0 && to >= 0;
  const scaled = (v: number): number => (byRatio ? Math.log(v + 1) : v);
  const [low, high] = [scaled(from), scaled(to)];
  return Array.from({ length: count }, (_, i) => {
    const v = low + ((high - low) * i) / (count - 1);
    return within(number, byRatio ? Math.exp(v) - 1 : v);
  });
}

/** Values about the one that it has: a quarter of its slider to either side. */
function around(number: TriedNumber, count: number): number[] {
  const { min, max, log } = number;
  const value = number.now();
  if (log)
    return spread(number, Math.max(min, (value + 1) / 3 - 1), Math.min(max, (value + 1) * 3 - 1), count);
  const reach = (max - min) / 4;
  return spread(number, Math.max(min, value - reach), Math.min(max, value + reach), count);
}

/**
 * Reads values that were typed: a list (`10, 20, 35`), or from–to (`0 … 60`), which is spread over as many as there were.
 * @returns why not, in words for a person, where they can't be had
 */
export function readValues(
  text: string,
  number: TriedNumber,
  count: number,
  most: number
): number[] | string {
  const range = /^(.+?)(?:…|\.\.\.?|\bto\b)(.+)$/.exec(text.trim());
  // A comma between digits is a decimal sign where something else tells the values apart.
  const between = /[;\s]/.test(text.trim()) ? /[;\s]+|,(?=\s)/ : /,/;
  const parts = range ? range.slice(1) : text.split(between).filter((part) => part.trim() !== '');
  const values = parts.map((part) => typed(part.trim()));
  const wrong = values.findIndex((v) => v === null);
  if (wrong >= 0) return `“${parts[wrong].trim().slice(0, 20)}” is no number`;
  if (range) return spread(number, values[0]!, values[1]!, count);
  if (values.length < FEWEST || values.length > most) return `${FEWEST} to ${most} values, please`;
  return values.map((v) => within(number, v!));
}

export const valuesTold = (values: readonly number[]): string => values.map((v) => toldShort(v)).join('  ');

/** One of the pictures of a bracket. */
export interface Tried {
  readonly key: string;
  /** One value a number. */
  readonly values: readonly number[];
  readonly shown: Omit<Shown, 'view'> | null;
}

/** A number, or two of them as a grid, tried at several values side by side. */
export class Bracket {
  numbers = $state.raw<readonly TriedNumber[]>([]);
  values = $state.raw<readonly (readonly number[])[]>([]);
  /** A picture for each value, or for each pair of two. */
  all = $state.raw<readonly Tried[]>([]);

  constructor(private readonly bench: BenchState) {}

  get isOpen(): boolean {
    return this.numbers.length > 0;
  }

  /** Tries a number; a second one beside the first, as a grid; a third begins anew. */
  try(number: TriedNumber): void {
    if (!this.changes(number)) return;
    const again = this.numbers.some(({ name }) => name === number.name);
    if (this.numbers.length === 1 && !again) {
      const [first] = this.numbers;
      this.numbers = [first, number];
      const [values] = this.values;
      this.values = [values.length > MOST_OF_TWO ? around(first, FEWEST) : values, around(number, FEWEST)];
    } else {
      this.numbers = [number];
      this.values = [around(number, 5)];
    }
  }

  /** Whether the number is one of the document: the size of a brush is not. */
  private changes(number: TriedNumber): boolean {
    const { session } = this.bench;
    const now = number.now();
    const other = now < number.most ? number.most : number.least;
    const supposed = session.whatIf(() => number.set(other));
    if (supposed !== null && supposed !== session.document) return true;
    number.set(now);
    return false;
  }

  end(): void {
    this.numbers = [];
    this.values = [];
    this.all = [];
  }

  /** The second number only, where there are two. */
  leaveOne(): void {
    this.numbers = this.numbers.slice(0, 1);
    this.values = this.values.slice(0, 1);
  }

  /** @returns why they are not taken, in words for a person, or nothing */
  type(at: number, text: string): string {
    const most = this.numbers.length > 1 ? MOST_OF_TWO : MOST_VALUES;
    const values = readValues(text, this.numbers[at], this.values[at].length, most);
    if (typeof values === 'string') return values;
    this.values = this.values.with(at, values);
    return '';
  }

  /** So many values over the same way. */
  count(at: number, count: number): void {
    const values = this.values[at];
    this.values = this.values.with(at, spread(this.numbers[at], values[0], values.at(-1)!, count));
  }

  /** Makes the pictures of the values anew, when something that they depend on has changed. */
  renew(): void {
    const [first, second] = this.values;
    const sets = second ? second.flatMap((b) => first.map((a) => [a, b])) : (first ?? []).map((a) => [a]);
    this.all = sets.map((values, i) => ({
      key: `${i} ${values.join()}`,
      values,
      shown: this.supposed(values)
    }));
  }

  private supposed(values: readonly number[]): Tried['shown'] {
    const { session, outPlace } = this.bench;
    const document = session.whatIf(() => this.put(values));
    const picture = document?.pictures.find(({ id }) => id === session.cursor.picture.id);
    const way = picture && stepsTo(picture.steps, outPlace);
    if (!document || !picture || !way) return null;
    const { head, steps } = session.files.resolverOf(document).whole(picture);
    return {
      ...{ head, steps, at: outPlace, hold: session.cursor.stepId, levels: session.cursor.head.levels },
      pins: pinsRead(way, pinsOf(document, picture.id)),
      geometry: pictureGeometry(session.cursor.head, way)
    };
  }

  private put(values: readonly number[]): void {
    this.numbers.forEach((number, i) => number.set(values[i]));
  }

  /** Has the numbers have these values, as one entry of the history. */
  take({ values }: Tried): void {
    const { session } = this.bench;
    const names = this.numbers.map(({ name }, i) => `${name} ${toldShort(values[i])}`).join(', ');
    session.asOne(`Take ${names}`, () => this.put(values));
    this.end();
  }
}

const KEY = Symbol('bracket');
export const provideBracket = (bracket: Bracket): Bracket => setContext(KEY, bracket);
/** Where numbers are tried at several values; undefined where there is no bench around. */
export const bracketHere = (): Bracket | undefined => getContext<Bracket | undefined>(KEY);
