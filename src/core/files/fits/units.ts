import { damaged, FileError } from '../image';
import { readHeader, type FitsHeader, BLOCK } from './header';
import type { ByteSource } from './source';

/** What stands in a FITS file one after another (header and data units), as far as it is an image. */
export interface ImageUnit {
  /** Counted from 0, those that are no image counted too. */
  readonly index: number;
  /** Its EXTNAME, or one made of its number. */
  readonly name: string;
  readonly width: number;
  readonly height: number;
  /** Grey pictures that lie one behind the other. */
  readonly planes: number;
  readonly header: FitsHeader;
  /** Where its data begins in the file, and how long that is. */
  readonly at: number;
  readonly bytes: number;
  /** Kept in the rows of a table, tile by tile. */
  readonly packed: boolean;
}

const DEPTHS = [8, 16, 32, 64, -32, -64];
const MOST_UNITS = 1000;
const MOST_AXES = 999;

export const depthOf = (header: FitsHeader, key: 'BITPIX' | 'ZBITPIX'): number => {
  const bits = header.integer(key);
  if (!DEPTHS.includes(bits)) throw damaged(`its card ${key} says ${bits}, which is no depth`);
  return bits;
};

function axesOf(header: FitsHeader, key: 'NAXIS' | 'ZNAXIS'): number[] {
  const count = header.integer(key);
  if (count < 0 || count > MOST_AXES) throw damaged(`its card ${key} says ${count} axes`);
  return Array.from({ length: count }, (_, i) => {
    const length = header.integer(`${key}${i + 1}`);
    if (length < 0) throw damaged(`its card ${key}${i + 1} says ${length}`);
    return length;
  });
}

/** Bytes of the data of a unit (section 4.4.1.1), without what fills its last block. */
function dataBytes(header: FitsHeader): number {
  const axes = axesOf(header, 'NAXIS');
  if (axes.length === 0) return 0;
  const groups = axes[0] === 0 ? axes.slice(1) : axes;
  const [extra, count] = [header.integer('PCOUNT', 0), header.integer('GCOUNT', 1)];
  if (extra < 0 || count < 0) throw damaged('its data has a negative size');
  const bytes =
    (Math.abs(depthOf(header, 'BITPIX')) / 8) * count * (extra + groups.reduce((n, a) => n * a, 1));
  if (!Number.isSafeInteger(bytes)) throw damaged('its axes are far larger than any file');
  return bytes;
}

/** The image that a header tells of; null where it is none. */
function imageOf(header: FitsHeader, index: number, at: number, bytes: number): ImageUnit | null {
  const kind = index === 0 ? 'IMAGE' : header.text('XTENSION');
  const packed = kind === 'BINTABLE' && header.value('ZIMAGE') === true;
  if (kind !== 'IMAGE' && !packed) return null;
  const axes = axesOf(header, packed ? 'ZNAXIS' : 'NAXIS');
  if (axes.length < 2 || axes[0] === 0) return null;
  const [width, height, ...more] = axes;
  return {
    ...{ index, width, height, header, at, bytes, packed },
    name: header.text('EXTNAME')?.trim() || (index === 0 ? 'the first part' : `part ${index + 1}`),
    planes: more.reduce((n, a) => n * a, 1)
  };
}

/** All images of a file. @throws FileError */
export async function imagesOf(source: ByteSource): Promise<readonly ImageUnit[]> {
  const images: ImageUnit[] = [];
  let at = 0;
  for (let index = 0; ; index++) {
    if (index > 0 && (await source.upTo(at + BLOCK)).length < at + BLOCK) break;
    if (index === MOST_UNITS)
      throw new FileError(`It has more than ${MOST_UNITS} parts. Save the picture by itself.`);
    let read: Awaited<ReturnType<typeof readHeader>>;
    try {
      read = await readHeader(source, at);
      if (index > 0 && read.header.text('XTENSION') === undefined) break;
    } catch (error) {
      // What is wrong behind the first part does not keep it from being read.
      if (index > 0) break;
      throw error;
    }
    const bytes = dataBytes(read.header);
    const image = imageOf(read.header, index, read.end, bytes);
    if (image) images.push(image);
    at = read.end + Math.ceil(bytes / BLOCK) * BLOCK;
  }
  return images;
}
