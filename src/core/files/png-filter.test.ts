import { expect, it } from 'vitest';
import { randomStream } from '../random';
import { filterPaeth, filterPlainly, unfilter, unfilterPlainly } from './png-filter';

const random = randomStream(9);
const noise = (length: number): Uint8Array => Uint8Array.from({ length }, () => 256 * random());

it.each([1, 2, 3, 4, 6, 8])(
  'rows of pixels of %d bytes come out of every filter as the standard says',
  (pixel) => {
    for (const pixels of [1, 3, 200, 501]) {
      const above = noise(1 + pixel * pixels);
      for (const filter of [0, 1, 2, 3, 4]) {
        const row = noise(above.length);
        row[0] = filter;
        const wanted = row.slice();
        unfilterPlainly(wanted, above, pixel);
        unfilter(row, above, pixel);
        expect(row).toEqual(wanted);
      }
    }
  }
);

it.each([1, 2, 3, 4, 6, 8])('a row of pixels of %d bytes is filtered as the plain way does it', (pixel) => {
  for (const pixels of [1, 2, 60, 61, 501]) {
    const [row, above] = [noise(pixel * pixels), noise(pixel * pixels)];
    const [wanted, found] = [new Uint8Array(row.length + 1), new Uint8Array(row.length + 1)];
    filterPlainly(row, above, pixel, wanted);
    filterPaeth(row, above, pixel, found);
    expect(found).toEqual(wanted);
  }
});

it('what was filtered by Paeth comes back', () => {
  const [row, above] = [noise(1200), noise(1200)];
  const filtered = new Uint8Array(1201);
  filterPaeth(row, above, 6, filtered);
  unfilter(filtered, Uint8Array.of(0, ...above), 6);
  expect(filtered.subarray(1)).toEqual(row);
});

it('a row by hand', () => {
  // Average of 10 (left, raw 10 + ⌊0 + 0⌋) and 5, rounded down: 7; 7 + 3 = 10.
  const row = Uint8Array.of(3, 10, 3);
  unfilterPlainly(row, Uint8Array.of(0, 0, 5), 1);
  expect([...row]).toEqual([3, 10, 10]);
});
