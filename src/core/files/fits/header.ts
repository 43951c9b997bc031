import { damaged, FileError, truncated } from '../image';
import type { ByteSource } from './source';

/** FITS Standard 4.0 (2018): headers of cards of 80 letters in blocks of 2880 bytes. */
export const BLOCK = 2880;
export const CARD = 80;
const MOST_CARDS = 20_000;

export type CardValue = string | number | boolean | null;

export interface Card {
  readonly key: string;
  /** Null where there is none, or one that is no text, number or truth. */
  readonly value: CardValue;
  /** What stands behind the value; all of the text where there is no value. */
  readonly comment: string;
}

export interface FitsHeader {
  /** As they stand in the file, END left out. */
  readonly texts: readonly string[];
  readonly cards: readonly Card[];
  value(key: string): CardValue | undefined;
  /** @throws FileError where it is there and no whole number */
  integer(key: string, missing?: number): number;
  number(key: string, missing: number): number;
  text(key: string): string | undefined;
}

const decoder = new TextDecoder('latin1');

/** Section 4.2.1: a text in quotes, a quote within doubled; what is behind the last one. */
function readText(field: string): { text: string; rest: string } {
  let text = '';
  let at = field.indexOf("'") + 1;
  for (;;) {
    const end = field.indexOf("'", at);
    if (end < 0) return { text: text + field.slice(at), rest: '' };
    text += field.slice(at, end);
    if (field[end + 1] !== "'") return { text, rest: field.slice(end + 1) };
    text += "'";
    at = end + 2;
  }
}

const commentOf = (rest: string): string => {
  const at = rest.indexOf('/');
  return at < 0 ? '' : rest.slice(at + 1).trim();
};

function readValue(field: string): { value: CardValue; comment: string } {
  const trimmed = field.trimStart();
  if (trimmed.startsWith("'")) {
    const { text, rest } = readText(trimmed);
    return { value: text.trimEnd(), comment: commentOf(rest) };
  }
  const [plain] = trimmed.split('/', 1);
  const word = plain.trim();
  const comment = commentOf(trimmed.slice(plain.length));
  if (word === 'T' || word === 'F') return { value: word === 'T', comment };
  // Fortran's D stands for the power as E does.
  const number = /^[+-]?(\d+\.?\d*|\.\d+)([ED][+-]?\d+)?$/i.test(word)
    ? Number(word.replace(/d/i, 'E'))
    : Number.NaN;
  return { value: Number.isNaN(number) ? null : number, comment };
}

/** A card with the texts of those that continue it. */
export function readCard(text: string, next: readonly string[] = []): Card {
  const hierarchy = /^HIERARCH ([^=]+)=/.exec(text);
  const key = hierarchy ? hierarchy[1].trim() : text.slice(0, 8).trimEnd();
  if (!hierarchy && text.slice(8, 10) !== '= ') return { key, value: null, comment: text.slice(8).trim() };
  const read = readValue(hierarchy ? text.slice(hierarchy[0].length) : text.slice(10));
  let { value, comment } = read;
  for (const more of next) {
    if (typeof value !== 'string' || !value.endsWith('&') || !more.startsWith('CONTINUE  ')) break;
    const continued = readValue(more.slice(10));
    value = value.slice(0, -1) + String(continued.value ?? '');
    comment = [comment, continued.comment].filter(Boolean).join(' ');
  }
  return { key, value, comment };
}

function headerOf(texts: readonly string[]): FitsHeader {
  const cards = texts.flatMap((text, i) =>
    text.startsWith('CONTINUE')
      ? []
      : [readCard(text, texts[i + 1]?.startsWith('CONTINUE') ? following(texts, i) : [])]
  );
  const values = new Map<string, CardValue>();
  for (const { key, value } of cards) if (!values.has(key)) values.set(key, value);
  const number = (key: string, missing: number): number => {
    const value = values.get(key);
    if (value === undefined) return missing;
    if (typeof value !== 'number') throw damaged(`its card ${key} is no number`);
    return value;
  };
  return {
    texts,
    cards,
    value: (key) => values.get(key),
    number,
    integer(key, missing) {
      if (missing === undefined && !values.has(key)) throw damaged(`its card ${key} is missing`);
      const value = number(key, missing ?? 0);
      if (!Number.isSafeInteger(value)) throw damaged(`its card ${key} is no whole number`);
      return value;
    },
    text(key) {
      const value = values.get(key);
      return typeof value === 'string' ? value : undefined;
    }
  };
}

function following(texts: readonly string[], at: number): string[] {
  const found: string[] = [];
  for (let i = at + 1; texts[i]?.startsWith('CONTINUE'); i++) found.push(texts[i]);
  return found;
}

/**
 * Reads the header that begins at a byte.
 * @returns it, and where its data begins
 * @throws FileError where it never ends
 */
export async function readHeader(
  source: ByteSource,
  from: number
): Promise<{ readonly header: FitsHeader; readonly end: number }> {
  const texts: string[] = [];
  for (let at = from; ; at += BLOCK) {
    const bytes = await source.upTo(at + BLOCK);
    if (bytes.length < at + BLOCK) {
      if (bytes.length <= from + BLOCK) throw truncated();
      throw damaged('its header has no END');
    }
    for (let card = at; card < at + BLOCK; card += CARD) {
      const text = decoder.decode(bytes.subarray(card, card + CARD));
      if (text.startsWith('END') && text.trim() === 'END')
        return { header: headerOf(texts), end: at + BLOCK };
      if (texts.length === MOST_CARDS) {
        throw new FileError(`Its header has more than ${MOST_CARDS} cards. Save it with fewer of them.`);
      }
      texts.push(text);
    }
  }
}
