import { describe, expect, it } from 'vitest';
import { takenOf } from './told';

const cards = (...texts: string[]): { cards: string[] } => ({ cards: texts.map((t) => t.padEnd(80)) });

describe('what a frame was taken of', () => {
  it('stands in its header', () => {
    const fits = cards(
      "OBJECT  = 'Lantern '           / what is seen",
      "FILTER  = 'H alpha '",
      'EXPTIME =              14400.0',
      "DATE-OBS= '2026-02-11T21:40:00'"
    );
    expect(takenOf(fits, 'lantern-o.fits')).toEqual({
      ...{ object: 'Lantern', filter: 'H alpha', exposure: 14400, date: '2026-02-11T21:40:00' }
    });
  });

  it.each([
    ['quern_Ha_stack.fits', 'H'],
    ['Quern L.fits.gz', 'L'],
    ['lantern-SII.fit', 'S'],
    ['o3.fts', 'O'],
    ['red night 3.tif', 'R'],
    ['quern.fits', '']
  ])('or the filter in its name: %s', (name, filter) => {
    expect(takenOf(undefined, name).filter).toBe(filter);
    expect(takenOf(cards('EXPTIME =                  -1'), name)).toMatchObject({ filter, exposure: 0 });
  });
});
