import type { FitsFacts } from '../../raster/frame';
import { readCard, type Card } from './header';

/** The cards of a header, those that go on in the next as one. */
export const cardsOf = ({ cards }: Pick<FitsFacts, 'cards'>): Card[] =>
  cards.flatMap((text, i) => {
    if (text.startsWith('CONTINUE') || text.trim() === '') return [];
    const next: string[] = [];
    for (let k = i + 1; cards[k]?.startsWith('CONTINUE'); k++) next.push(cards[k]);
    return [readCard(text, next)];
  });

/** What a frame was taken of and how, as its header says, or else its name. */
export interface Taken {
  readonly object: string;
  readonly filter: string;
  /** In seconds; 0 where nothing says it. */
  readonly exposure: number;
  readonly date: string;
}

/** Filters by the trade's letters and words, as file names have them. */
const FILTERS: readonly (readonly [string, RegExp])[] = [
  ['S', /^(s|s2|sii)$/i],
  ['H', /^(h|ha|halpha|h-alpha)$/i],
  ['O', /^(o|o3|oiii)$/i],
  ['L', /^(l|lum|luminance|lightness|clear)$/i],
  ['R', /^(r|red)$/i],
  ['G', /^(g|green)$/i],
  ['B', /^(b|blue)$/i]
];

/** The last part of a name that is a filter's: S, H, O, L, R, G or B; empty where none is. */
export function filterInName(name: string): string {
  const parts = name.replace(/(\.(fits?|fts|gz|tiff?|png))+$/i, '').split(/[^a-z0-9]+/i);
  for (const part of parts.reverse()) {
    const found = FILTERS.find(([, pattern]) => pattern.test(part));
    if (found) return found[0];
  }
  return '';
}

export function takenOf(fits: Pick<FitsFacts, 'cards'> | undefined, file: string): Taken {
  const cards = fits ? cardsOf(fits) : [];
  const first = (...keys: string[]): Card['value'] =>
    keys.map((key) => cards.find((c) => c.key === key)?.value ?? null).find((v) => v !== null && v !== '') ??
    null;
  const text = (...keys: string[]): string => {
    const value = first(...keys);
    return value === null ? '' : String(value).trim();
  };
  const exposure = first('EXPTIME', 'EXPOSURE', 'EXPOSUR');
  return {
    object: text('OBJECT'),
    filter: text('FILTER', 'FILTER1', 'FILTNAM') || filterInName(file),
    exposure: typeof exposure === 'number' && exposure > 0 ? exposure : 0,
    date: text('DATE-OBS', 'DATE')
  };
}
