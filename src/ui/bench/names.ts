import type { Picture } from '$core/document';

/** Ids that are new in a document, by the kind of thing they name. */
export const newId = (kind: 's' | 'p' | 'n' | 'f' | 'm' | 't'): string =>
  `${kind}-${crypto.randomUUID().slice(0, 8)}`;

/** `name`, or the first “name, 2”, “name, 3” … that nothing else is called. */
export function freeName(others: readonly Pick<Picture, 'name'>[], name: string): string {
  if (!others.some((p) => p.name === name)) return name;
  const base = name.replace(/, \d+$/, '');
  for (let i = 2; ; i++) {
    const next = `${base}, ${i}`;
    if (!others.some((p) => p.name === next)) return next;
  }
}
