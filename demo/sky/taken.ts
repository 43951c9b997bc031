import { readCard } from '../../src/core/files/fits/header';
import { writeFits } from '../../src/core/files/fits/write';
import { expose, type Exposed } from './expose';
import { FRAME_HEIGHT, FRAME_WIDTH, sessionOf } from './frames';

const card = (key: string, value: string | number, comment: string): string =>
  `${key.padEnd(8)}= ${(typeof value === 'number' ? String(value) : `'${value.padEnd(8)}'`).padEnd(20)} / ${comment}`.padEnd(
    80
  );

export interface Taken extends Exposed {
  /** The frame as a FITS file of 16 bits, its cards in it. */
  readonly file: Uint8Array;
}

/**
 * The frames of a session as they come from the little observatory, one a filter, at a size in pixels.
 * @throws Error where a card could not be read back: that is a mistake of this script
 */
export function taken(
  id: 'lantern' | 'quern',
  width: number = FRAME_WIDTH,
  height: number = FRAME_HEIGHT
): Taken[] {
  const { object, date, exposures } = sessionOf(id, width, height);
  return exposures.map((exposing) => {
    const exposed = expose(exposing, width, height);
    const cards = [
      card('OBJECT', object, 'what is seen'),
      card('FILTER', exposing.filter, ''),
      card('EXPTIME', exposing.seconds, 'seconds in all'),
      card('DATE-OBS', date, 'when it was begun'),
      card('TELESCOP', 'Skerry Hill 300 mm', ''),
      card('OBSERVER', 'Skerry Kiln', '')
    ];
    if (cards.some((text) => readCard(text).value === null)) throw new Error('a card makes no sense');
    const { samples } = exposed;
    const image = { width, height, alpha: false, grey: true, encoding: 'linear' as const, samples };
    return { ...exposed, file: writeFits(image, { cards }) };
  });
}
