import { z } from 'zod';

export const LONGEST_NAME = 200;

/** Name of a document, a frame, a picture, a mask or a pin. */
export const nameSchema = z
  .string()
  .min(1, 'must not be empty')
  .max(LONGEST_NAME, `must be at most ${LONGEST_NAME} letters`);

/** Names for what comes to others: `name`, or the first “name, 2”, “name, 3” … that none of those has, nor what came before. */
export function freeNames(others: readonly { readonly name: string }[] = []): (name: string) => string {
  const taken = new Set(others.map(({ name }) => name));
  const free = (name: string): string => {
    if (!taken.has(name)) return name;
    const base = name.replace(/, \d+$/, '');
    for (let i = 2; ; i++) {
      const end = `, ${i}`;
      const next = base.slice(0, LONGEST_NAME - end.length) + end;
      if (!taken.has(next)) return next;
    }
  };
  return (name) => {
    const found = free(name);
    taken.add(found);
    return found;
  };
}

/** A name for what comes to others; see `freeNames`. */
export const freeName = (others: readonly { readonly name: string }[], name: string): string =>
  freeNames(others)(name);
