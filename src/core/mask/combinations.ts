import type { Combine } from '../document/mask';

/** Modes in which a term joins what stands before it, and what each does. */
export const combinations: readonly {
  readonly id: Combine;
  readonly title: string;
  readonly does: string;
}[] = [
  { id: 'intersect', title: 'and', does: 'only where both are' },
  { id: 'add', title: 'or', does: 'where either is' },
  { id: 'subtract', title: 'but not', does: 'where this term is not' },
  { id: 'min', title: 'darker of', does: 'the smaller of the two' },
  { id: 'max', title: 'lighter of', does: 'the larger of the two' },
  { id: 'difference', title: 'difference', does: 'where they differ' }
];
