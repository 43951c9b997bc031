import type { KrombaDocument, MaskSource } from '$core/document';
import { sourceKind } from '$core/mask/sources';
import { opOf } from '$core/ops';

type Names = Pick<KrombaDocument, 'pictures' | 'masks'>;

/** A picture that a reference means, in words. */
export function referenceTold(
  { picture, after }: { picture: string; after?: string },
  { pictures }: Names
): string {
  const found = pictures.find((p) => p.id === picture);
  if (!found) return 'a missing picture';
  if (after === undefined) return found.name;
  if (after === 'head') return `${found.name} as it came`;
  const step = found.steps.find((s) => s.id === after);
  return `${found.name} after ${step ? (step.name ?? opOf(step.op).title) : 'a missing step'}`;
}

/** A source as a term of the list tells it. */
export const sourceTold = (source: MaskSource, names: Names): string =>
  sourceKind(source.kind).words(source, {
    picture: (reference) => referenceTold(reference, names),
    mask: (id) => names.masks.find((m) => m.id === id)?.name ?? 'missing'
  });
