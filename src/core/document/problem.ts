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

/** Zod's issues as sentences of the application: each a JSON path and a reason. */
export function problemText(issues: readonly z.core.$ZodIssue[]): string {
  const named = issues.slice(0, MOST_NAMED).map((issue) => `${jsonPath(issue.path)}: ${reason(issue)}`);
  const more = issues.length - named.length;
  return named.join('; ') + (more > 0 ? `; and ${more} more` : '');
}

/** How zod begins what it says itself; anything else is a schema's own words, which know the unit. */
const ZODS_OWN = /^(Invalid|Too |Unrecognized|Expected)/;

function reason(issue: z.core.$ZodIssue): string {
  const missing = issue.code === 'invalid_type' && issue.input === undefined;
  if (!missing && issue.message && !ZODS_OWN.test(issue.message))
    return issue.message.replace(/-(?=\d)/g, '−');
  switch (issue.code) {
    case 'unrecognized_keys':
      return `unknown ${issue.keys.length > 1 ? 'keys' : 'key'} ${issue.keys.map((k) => `“${k}”`).join(', ')}`;
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
