/** Something that is offered: its name, what it does, and what people call that. */
export interface Offered {
  readonly title: string;
  readonly purpose: string;
  readonly words: readonly string[];
}

/** Both spellings of English as one, whole words and beginnings alike: *equalize* and *equalise*, *color*, *gray*. */
const inOneSpelling = (text: string): string =>
  text
    .toLowerCase()
    .replaceAll('z', 's')
    .replaceAll(/color/g, 'colour')
    .replaceAll(/\bgray/g, 'grey');

/** The words of a text, small, without marks. */
const wordsOf = (text: string): string[] =>
  inOneSpelling(text)
    .split(/[^\p{L}\p{N}:&-]+/u)
    .filter(Boolean);
const phraseOf = (text: string): string => wordsOf(text).join(' ');

const begins = (text: string, wanted: readonly string[]): boolean => {
  const words = wordsOf(text);
  return wanted.every((w) => words.some((word) => word.startsWith(w)));
};

/**
 * What a person may mean, the likeliest first: what is called so, what people call so, what begins so, what only speaks of it.
 */
export function ranked<T extends Offered>(offers: readonly T[], wanted: string): T[] {
  const asked = wordsOf(wanted);
  if (asked.length === 0) return [...offers];
  const phrase = phraseOf(wanted);
  const rank = ({ title, purpose, words }: T): number => {
    if (phraseOf(title).startsWith(phrase)) return 0;
    if (words.some((word) => phraseOf(word) === phrase)) return 1;
    if (begins(title, asked)) return 2;
    if (words.some((word) => begins(word, asked))) return 3;
    return begins([title, purpose, ...words].join(' '), asked) ? 4 : 5;
  };
  return offers
    .map((offer) => ({ offer, rank: rank(offer) }))
    .filter(({ rank }) => rank < 5)
    .sort((a, b) => a.rank - b.rank)
    .map(({ offer }) => offer);
}

/** What is no step, and where it is to be had instead. */
const ELSEWHERE: readonly [words: readonly string[], where: string][] = [
  [
    ['vignette', 'dark edges', 'corners', 'falloff'],
    'Dark or light edges: add Levels, then a round ramp under Where.'
  ],
  [['resize', 'size', 'scale', 'pixels', 'enlarge', 'resolution', 'dpi'], 'The size is chosen under Export.'],
  [['mask', 'select', 'selection', 'gradient'], 'Every step has a mask of its own: open its Where.'],
  [['opacity', 'fade', 'blend', 'layer'], 'Every step can be faded and blended: open its Blend.'],
  [
    ['channel', 'alpha', 'lab', 'cmyk', 'lightness'],
    'Every step can act on the channels of any model: open its On.'
  ],
  [
    ['clone', 'heal', 'retouch', 'spot', 'dust', 'remove', 'stamp', 'patch'],
    'Kromba does not paint pixels over: spots are left to another program.'
  ],
  [['text', 'frame', 'border', 'watermark', 'logo'], 'Kromba writes and draws nothing on a picture.'],
  [['before', 'original', 'compare'], 'Hold O to see the original; In shows what comes into a step.'],
  [['save', 'export', 'jpeg', 'png', 'tiff'], 'Export (E) writes the picture to a file.'],
  [['undo', 'reset', 'history'], 'Ctrl Z undoes, as far back as the document goes.'],
  [['copy', 'version', 'duplicate'], 'D makes a version of the picture; Ctrl C copies a step.']
];

/** Where something is to be had that is no step; empty where nothing is known of it. */
export function elsewhere(wanted: string): string {
  const phrase = phraseOf(wanted);
  if (phrase.length < 3) return '';
  return ELSEWHERE.find(([words]) => words.some((word) => phraseOf(word).startsWith(phrase)))?.[1] ?? '';
}
