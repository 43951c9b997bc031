import type { z } from 'zod';

/** A document, look or step that can't be taken; the message names the place and the reason. */
export class DocumentError extends Error {
  override readonly name = 'DocumentError';
}

/** `$.pictures[0].steps[1].params.rows` */
export function jsonPath(path: readonly PropertyKey[]): string {
  return path.reduce<string>(
    (text, key) => text + (typeof key === 'number' ? `[${key}]` : `.${String(key)}`),
    '$'
  );
}

const MOST_NAMED = 3;
const LONGEST_WORD = 60;
const LONGEST_PATH = 200;

/** Something out of a file as a message names it: what is too long is cut. */
export const shortened = (text: string, most = LONGEST_WORD): string =>
  text.length > most ? `${text.slice(0, most - 1)}…` : text;

/** The first few as a message names them, and how many more there are. */
export function named(words: readonly string[]): string {
  const first = words.slice(0, MOST_NAMED).map((word) => `“${shortened(word)}”`);
  return first.join(', ') + (words.length > MOST_NAMED ? ` and ${words.length - MOST_NAMED} more` : '');
}

/** Zod's issues as sentences of the application: each a JSON path and a reason. */
export const problemText = (issues: readonly z.core.$ZodIssue[]): string =>
  firstFew(issues, (issue) => `${shortened(jsonPath(issue.path), LONGEST_PATH)}: ${reason(issue)}`);

/** The reasons alone, each after the name of the field it lies in: for who sees the thing, not its file. */
export const reasonsOf = (issues: readonly z.core.$ZodIssue[]): string =>
  firstFew(issues, (issue) => {
    const field = issue.path.findLast((key) => typeof key === 'string');
    return field === undefined ? reason(issue) : `${shortened(String(field))} ${reason(issue)}`;
  });

function firstFew(issues: readonly z.core.$ZodIssue[], words: (issue: z.core.$ZodIssue) => string): string {
  const first = issues.slice(0, MOST_NAMED).map(words);
  const more = issues.length - first.length;
  return first.join('; ') + (more > 0 ? `; and ${more} more` : '');
}

/** How zod begins what it says itself; anything else is a schema's own words, which know the unit. */
const ZODS_OWN = /^(Invalid|Too |Unrecognized|Expected)/;

function reason(issue: z.core.$ZodIssue): string {
  const missing = issue.code === 'invalid_type' && issue.input === undefined;
  if (!missing && issue.message && !ZODS_OWN.test(issue.message))
    return issue.message.replace(/-(?=\d)/g, '−');
  switch (issue.code) {
    case 'unrecognized_keys':
      return `unknown ${issue.keys.length > 1 ? 'keys' : 'key'} ${named(issue.keys)}`;
    case 'invalid_type':
      return issue.input === undefined
        ? `is missing (${issue.expected} expected)`
        : `must be ${a(issue.expected)}`;
    case 'invalid_value':
      return `must be one of ${issue.values.map((v) => `“${String(v)}”`).join(', ')}`;
    case 'too_small':
      return `must be at least ${issue.minimum}`;
    case 'too_big':
      return `must be at most ${issue.maximum}`;
    default:
      return issue.message;
  }
}

const a = (noun: string): string => (/^[aeiou]/.test(noun) ? `an ${noun}` : `a ${noun}`);
