import { applyPatches, enablePatches, produceWithPatches, type Draft, type Patch } from 'immer';
import type { KrombaDocument } from './document';

enablePatches();

/** One thing a person did, both ways. */
export interface HistoryEntry {
  /** What was done, e.g. “Green gets blue”. */
  readonly label: string;
  readonly patches: readonly Patch[];
  readonly inverse: readonly Patch[];
}

export type Recipe = (draft: Draft<KrombaDocument>) => void;

/** The document after `recipe` and the entry that leads there and back; no entry where nothing changed. */
export function change(
  document: KrombaDocument,
  label: string,
  recipe: Recipe
): { document: KrombaDocument; entry: HistoryEntry | null } {
  const [next, patches, inverse] = produceWithPatches(document, (draft) => {
    recipe(draft);
  });
  return { document: next, entry: patches.length ? { label, patches, inverse } : null };
}

export const undone = (document: KrombaDocument, { inverse }: HistoryEntry): KrombaDocument =>
  applyPatches(document, inverse as Patch[]);

export const redone = (document: KrombaDocument, { patches }: HistoryEntry): KrombaDocument =>
  applyPatches(document, patches as Patch[]);
