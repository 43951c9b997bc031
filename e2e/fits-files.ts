import { gzipSync } from 'node:zlib';
import type { DamagedFile } from './damaged-files';

const CARD = 80;
const BLOCK = 2880;

export const card = (key: string, value: string | number): string =>
  `${key.padEnd(8)}= ${String(value).padStart(20)}`.padEnd(CARD);
const filled = (bytes: Buffer, by: number): Buffer =>
  Buffer.concat([bytes, Buffer.alloc((BLOCK - (bytes.length % BLOCK)) % BLOCK, by)]);

/** A header of cards, END last, in whole blocks. */
export const header = (cards: readonly string[]): Buffer =>
  filled(Buffer.from([...cards, 'END'.padEnd(CARD)].join(''), 'latin1'), 0x20);

type Cards = Record<string, string | number>;
const plain: Cards = { SIMPLE: 'T', BITPIX: 16, NAXIS: 2, NAXIS1: 64, NAXIS2: 48 };
const cardsOf = (cards: Cards): string[] => Object.entries(cards).map(([key, value]) => card(key, value));

/** A FITS of one image; cards may be said otherwise. */
export const fits = (more: Cards = {}, bytes = 64 * 48 * 2): Buffer =>
  Buffer.concat([header(cardsOf({ ...plain, ...more })), filled(Buffer.alloc(bytes, 9), 0)]);

/** A table of one tile in Rice's code, some of whose cards lie. */
function packed(more: Cards, content: Buffer, descriptor = [content.length, 0]): Buffer {
  const cards = {
    ...{
      XTENSION: "'BINTABLE'",
      BITPIX: 8,
      NAXIS: 2,
      NAXIS1: 8,
      NAXIS2: 1,
      PCOUNT: content.length,
      GCOUNT: 1
    },
    ...{ TFIELDS: 1, TTYPE1: "'COMPRESSED_DATA'", TFORM1: "'1PB(99)'", ZIMAGE: 'T', ZCMPTYPE: "'RICE_1'" },
    ...{ ZBITPIX: 16, ZNAXIS: 2, ZNAXIS1: 64, ZNAXIS2: 48, ZTILE1: 64, ZTILE2: 48 },
    ...{ ZNAME1: "'BLOCKSIZE'", ZVAL1: 32, ZNAME2: "'BYTEPIX'", ZVAL2: 2, ...more }
  };
  const row = Buffer.alloc(8);
  descriptor.forEach((v, i) => row.writeInt32BE(v, 4 * i));
  return Buffer.concat([
    header(cardsOf({ SIMPLE: 'T', BITPIX: 8, NAXIS: 0 })),
    header(cardsOf(cards)),
    filled(Buffer.concat([row, content]), 0)
  ]);
}

const noise = Buffer.from(Uint8Array.from({ length: 900 }, (_, i) => (i * 7919) % 251));

/** FITS files that are not what they say. */
export function damagedFits(): DamagedFile[] {
  const whole = fits();
  const file = (name: string, bytes: Buffer, says: RegExp): DamagedFile => ({ name, bytes, says });
  return [
    file('short.fits', whole.subarray(0, 5000), /ends before the picture/),
    file('header-only.fits', whole.subarray(0, 1000), /ends before the picture/),
    file('endless.fits', Buffer.from(whole.toString('latin1').replace('END', '   '), 'latin1'), /no END/),
    file('depth.fits', fits({ BITPIX: 13 }), /says 13, which is no depth/),
    file('depth-text.fits', fits({ BITPIX: "'many'" }), /BITPIX is no number/),
    file('negative.fits', fits({ NAXIS1: -64 }), /NAXIS1 says -64/),
    file('huge.fits', fits({ NAXIS1: 1_000_000_000, NAXIS2: 1_000_000 }), /1000000000×1000000/),
    file(
      'absurd.fits',
      fits({
        NAXIS: 9,
        ...Object.fromEntries(Array.from({ length: 9 }, (_, i) => [`NAXIS${i + 1}`, 99_999]))
      }),
      /far larger than any file/
    ),
    file('axes.fits', fits({ NAXIS: 5000 }), /5000 axes/),
    file('row.fits', fits({ NAXIS: 1 }), /without a picture/),
    file('unlike.fits', fits({ NAXIS2: 4800 }), /ends before the picture/),
    file('scale.fits', fits({ BSCALE: "'big'" }), /BSCALE is no number/),
    file('not.fits.gz', gzipSync(Buffer.from('a letter about jugs')), /gzip that holds no FITS/),
    file('short.fits.gz', gzipSync(fits()).subarray(0, 60), /ends before|makes no sense/),
    file('tile-outside.fits', packed({}, noise, [900, 5_000_000]), /outside the file/),
    file('tile-negative.fits', packed({}, noise, [-5, 0]), /outside the file/),
    file('tile-empty.fits', packed({}, noise, [0, 0]), /tile 1 is empty/),
    file('tile-short.fits', packed({}, noise.subarray(0, 20)), /ends too early/),
    file('tile-bytes.fits', packed({ ZVAL2: 3 }, noise), /samples of 3 bytes/),
    file('tile-size.fits', packed({ ZTILE1: 0 }, noise), /no size/),
    file(
      'tile-vast.fits',
      packed({ ZTILE1: 1_000_000, ZTILE2: 1_000_000 }, noise),
      /far larger than the picture/
    ),
    file('tiles-missing.fits', packed({ ZTILE2: 1 }, noise), /tiles are missing/),
    file('tile-kind.fits', packed({ ZCMPTYPE: "'MAGIC'" }, noise), /compressed by MAGIC/),
    file('tile-zip.fits', packed({ ZCMPTYPE: "'GZIP_1'" }, noise), /makes no sense/),
    file('tile-list.fits', packed({ ZCMPTYPE: "'PLIO_1'" }, noise.subarray(0, 4)), /ends too early/),
    file('columns.fits', packed({ TFORM1: "'nonsense'" }, noise), /TFORM1 makes no sense/)
  ];
}
