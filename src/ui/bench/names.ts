/** Ids that are new in a document, by the kind of thing they name. */
export const newId = (kind: 's' | 'p' | 'n' | 'f' | 'm' | 't'): string =>
  `${kind}-${crypto.randomUUID().slice(0, 8)}`;
