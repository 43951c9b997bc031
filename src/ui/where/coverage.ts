import type { Mask } from '$core/document';

/** What a mask is, in the words of a step's sentence. */
export function coverageTold({ terms, invert }: Mask): string {
  if (terms.length === 0) return invert ? 'nowhere' : 'everywhere';
  return terms.length === 1 ? 'where its mask is' : `where its mask of ${terms.length} terms is`;
}
