import { z } from 'zod';

/** What the name of a file that is made of another one is made of. */
export interface NameParts {
  /** Of the file that came, without its extension. */
  readonly name: string;
  /** Of the look, or of the picture whose path it was. */
  readonly look: string;
  /** Its number among all of them, from 1 on, and how many there are. */
  readonly n: number;
  readonly count: number;
  readonly date: Date;
}

const FIELDS: Record<string, (parts: NameParts) => string> = {
  name: ({ name }) => name,
  look: ({ look }) => look,
  n: ({ n, count }) => String(n).padStart(String(count).length, '0'),
  date: ({ date }) =>
    [
      date.getFullYear(),
      ...[date.getMonth() + 1, date.getDate()].map((v) => String(v).padStart(2, '0'))
    ].join('-')
};

/** Characters: names of files take up to 255 bytes, in some systems of three bytes each. */
const LONGEST = 80;
/** What some system does not take in a file's name. */
// eslint-disable-next-line no-control-regex
const FORBIDDEN = /[\u0000-\u001f\u007f/\\:*?"<>|]+/g;
/** Names that some systems keep for devices. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)$/i;

/** A pattern such as “{name}-{look}”. */
export const namePattern = z
  .string()
  .min(1, 'must not be empty')
  .max(200, 'must be at most 200 characters')
  .superRefine((pattern, context) => {
    for (const [whole, field] of pattern.matchAll(/\{([^{}]*)\}/g))
      if (!Object.hasOwn(FIELDS, field))
        context.addIssue({
          code: 'custom',
          message: `“${whole}” is not known: use {name}, {look}, {n} or {date}`
        });
    if (/[{}]/.test(pattern.replace(/\{[^{}]*\}/g, '')))
      context.addIssue({ code: 'custom', message: 'has a brace that is not closed or not opened' });
  });

/**
 * A file's name, without an extension, by a pattern. What no file can be called by becomes “-”; never empty.
 * @param pattern one that `namePattern` takes
 */
export function nameBy(pattern: string, parts: NameParts): string {
  const filled = pattern.replace(/\{([^{}]*)\}/g, (_, field: string) => FIELDS[field](parts));
  // No dots or blanks at the ends: some systems hide such files, or leave them out.
  const safe = Array.from(filled.replace(FORBIDDEN, '-'))
    .slice(0, LONGEST)
    .join('')
    .replace(/^[\s.]+|[\s.]+$/g, '');
  if (safe === '') return `picture-${parts.n}`;
  return RESERVED.test(safe) ? `${safe}-` : safe;
}

/**
 * What files that are made of others are called, in their order.
 * @param pattern one that `namePattern` takes
 * @param clash says that two would be called the same @throws Error with that
 */
export function outputNames(
  files: readonly string[],
  { pattern, look, extension }: { pattern: string; look: string; extension: string },
  clash: (before: string, file: string, output: string) => string
): string[] {
  const date = new Date();
  const taken = new Map<string, string>();
  return files.map((file, i) => {
    const parts = { name: stemOf(file), look, n: i + 1, count: files.length, date };
    const output = `${nameBy(pattern, parts)}.${extension}`;
    // Some systems tell no capitals.
    const before = taken.get(output.toLowerCase());
    if (before !== undefined) throw new Error(clash(before, file, output));
    taken.set(output.toLowerCase(), file);
    return output;
  });
}

/** A file's name without its extension, and without folders. */
export const stemOf = (file: string): string =>
  (file.split(/[\\/]/).at(-1) ?? file).replace(/(?<=.)\.[^.]*$/, '');
