import { z } from 'zod';

export const LONGEST_NAME = 200;

/** Name of a document, a frame, a picture, a mask or a pin. */
export const nameSchema = z
  .string()
  .min(1, 'must not be empty')
  .max(LONGEST_NAME, `must be at most ${LONGEST_NAME} letters`);

/** `name`, or the first “name, 2”, “name, 3” … that nothing else is called. */
export function freeName(others: readonly { readonly name: string }[], name: string): string {
  if (!others.some((p) => p.name === name)) return name;
  const base = name.replace(/, \d+$/, '');
  for (let i = 2; ; i++) {
    const end = `, ${i}`;
    const next = base.slice(0, LONGEST_NAME - end.length) + end;
    if (!others.some((p) => p.name === next)) return next;
  }
}
