import { expect, it } from 'vitest';
import { writeFits } from './write';

const image = { width: 2, height: 1, alpha: false, grey: true, samples: new Float32Array([0.25, 0.5]) };
/** The cards of the header, up to its END. */
const header = (bytes: Uint8Array): string[] => {
  const text = new TextDecoder('latin1').decode(bytes);
  const all = Array.from({ length: text.length / 80 }, (_, i) => text.slice(80 * i, 80 * i + 80).trimEnd());
  return all.slice(0, all.indexOf('END'));
};

it('drops with a card what goes on with it, and keeps both of one that is still true', () => {
  const cards = [
    "EXTNAME = 'a very long name &'",
    "CONTINUE  'of an extension'",
    "OBSERVER= 'who sat at the &'",
    "CONTINUE  'telescope'",
    "CONTINUE  ''"
  ];
  const written = header(writeFits({ ...image, encoding: 'linear' }, { cards }));
  expect(written.filter((c) => /^(EXTNAME|OBSERVER|CONTINUE)/.test(c))).toEqual(cards.slice(2));
});

it('says once that values are coded, and nothing of it where they are linear', () => {
  const isSaid = (cards: string[]): number => cards.filter((c) => /coded as sRGB/.test(c)).length;
  const coded = header(writeFits(image));
  expect(isSaid(coded)).toBe(1);
  expect(isSaid(header(writeFits(image, { cards: coded })))).toBe(1);
  expect(isSaid(header(writeFits({ ...image, encoding: 'linear' }, { cards: coded })))).toBe(0);
});
