import { framesOf, stepOfHouse, type Picture, type Reference } from '$core/document';
import { filterInName } from '$core/files/fits/told';
import { partsOf, withPart, type Composed, type Row } from '$core/heads';
import { match, type MatchCoefficients } from '$core/ops/match';
import { pool } from '../services';
import { changeParts } from './composing';
import type { Session } from './session.svelte';

/** Filters that let a single line through. */
const NARROW = ['H', 'S', 'O', 'N'];
export const isNarrow = ({ name }: Picture): boolean => NARROW.includes(filterInName(name));

/** What a row is mostly made of, but for one picture; null where it is empty. */
export function mainPart(
  head: Composed,
  row: Row,
  sources: readonly { readonly picture: Picture; readonly from: Reference }[],
  but: string
): { readonly picture: Picture; readonly from: Reference } | null {
  const weight = (from: Reference): number => partsOf(head, row, from);
  const others = sources.filter(({ picture, from }) => picture.id !== but && weight(from) > 0);
  return others.length > 0 ? others.reduce((a, b) => (weight(b.from) > weight(a.from) ? b : a)) : null;
}

/**
 * How much of a broad-band picture a narrow-band one holds: the gain of the straight line from one to the other, as the step
 * `match` finds it.
 * @returns null where no line leads from one to the other
 * @throws Error in words for a person where one of them can't be opened
 */
export async function broadShare(
  session: Session,
  broad: Picture,
  narrow: Reference,
  signal: AbortSignal
): Promise<number | null> {
  const step = stepOfHouse(match.id, match.params.parse({ to: narrow }));
  const source = session.resolver.whole({ ...broad, steps: [...broad.steps, step] });
  const ask = { ...source, step: step.id };
  return session.pictures.withOpen(framesOf([source]), signal, async () => {
    const { solved } = await pool.run('solved', ask, { priority: 2, signal });
    const [line] = (solved as MatchCoefficients).lines!;
    return typeof line === 'string' ? null : line.gain;
  });
}

/** Adds a narrow-band picture to a row, and takes off what it holds of the row's broad-band one. */
export const addNarrow = (
  session: Session,
  row: Row,
  narrow: Reference,
  broad: Reference,
  strength: number,
  share: number
): void =>
  changeParts(session, 'Add a narrow band', (head) =>
    withPart(
      withPart(head, row, narrow, partsOf(head, row, narrow) + strength),
      row,
      broad,
      partsOf(head, row, broad) - strength * share
    )
  );
