import { gunzipSync } from 'fflate';
import { damaged, FileError, truncated } from '../image';
import { unpackLineList } from './plio';
import { unpackRice } from './rice';
import { storedOf } from './samples';
import { depthOf, type ImageUnit } from './units';

/** Tile-compressed images (FITS Standard 4.0, section 10): each row of a table holds one tile, in the table's heap. */

interface Column {
  readonly at: number;
  readonly type: string;
  readonly bytes: number;
}

const BYTES: Record<string, number> = { L: 1, B: 1, I: 2, J: 4, K: 8, E: 4, D: 8, A: 1, P: 8, Q: 16 };

function columnsOf({ header }: ImageUnit): Map<string, Column> {
  const columns = new Map<string, Column>();
  let at = 0;
  const count = header.integer('TFIELDS');
  if (count < 0 || count > 999) throw damaged(`its table says ${count} columns`);
  for (let i = 1; i <= count; i++) {
    const form = /^\s*(\d*)([LBIJKEDAPQX])/.exec(header.text(`TFORM${i}`) ?? '');
    if (!form) throw damaged(`its card TFORM${i} makes no sense`);
    const repeat = form[1] === '' ? 1 : Number(form[1]);
    const each = form[2] === 'X' ? 1 / 8 : BYTES[form[2]];
    const bytes = Math.ceil(repeat * each);
    columns.set((header.text(`TTYPE${i}`) ?? '').trim().toUpperCase(), { at, type: form[2], bytes });
    at += bytes;
  }
  if (at > header.integer('NAXIS1')) throw damaged('its columns are wider than its table');
  return columns;
}

/** Section 10.2: random numbers of Park and Miller (1988), by which quantized floats were dithered. */
const RANDOM = 10_000;
let randomKept: Float32Array | null = null;
function randomValues(): Float32Array {
  if (randomKept) return randomKept;
  let seed = 1;
  randomKept = Float32Array.from({ length: RANDOM }, () => {
    seed = (16807 * seed) % 2147483647;
    return seed / 2147483647;
  });
  return randomKept;
}

const [NO_VALUE, EXACT_ZERO] = [-2147483647, -2147483646];

/** A tile as values, scaled where floats were kept as integers. */
export interface Tile {
  readonly x: number;
  readonly y: number;
  readonly plane: number;
  readonly width: number;
  readonly height: number;
  readonly values: Float64Array;
}

/** Unpacks the content of one tile into numbers as stored. */
function unpackTile(
  kind: string,
  packed: Uint8Array,
  count: number,
  bits: number,
  isFloat: boolean,
  options: Options
): ArrayLike<number> {
  const bytesEach = Math.abs(bits) / 8;
  if (kind === 'RICE_1' || kind === 'RICE_ONE')
    return unpackRice(packed, count, options.bytes, options.block);
  if (kind === 'PLIO_1') return unpackLineList(packed, count);
  if (kind === 'NOCOMPRESS') return numbersOf(packed, count, bits);
  // Floats that were made integers are kept as those of 32 bits.
  const depth = isFloat ? bits : bits < 0 ? 32 : bits;
  const length = count * (isFloat ? bytesEach : Math.abs(depth) / 8);
  const raw = inflated(packed, length);
  return numbersOf(kind === 'GZIP_2' ? unshuffled(raw, Math.abs(depth) / 8) : raw, count, depth);
}

interface Options {
  /** Of Rice's code: samples a block, bytes a sample. */
  readonly block: number;
  readonly bytes: number;
}

function inflated(packed: Uint8Array, length: number): Uint8Array {
  try {
    // What does not fit is left out.
    const out = gunzipSync(packed, { out: new Uint8Array(length) });
    if (out.length < length) throw truncated();
    return out;
  } catch (error) {
    throw error instanceof FileError ? error : damaged('the compressed data of a tile makes no sense');
  }
}

/** Bytes that lie by their place in a sample, as bytes that lie by samples. */
function unshuffled(bytes: Uint8Array, each: number): Uint8Array {
  const count = bytes.length / each;
  const out = new Uint8Array(bytes.length);
  for (let b = 0; b < each; b++) for (let i = 0; i < count; i++) out[each * i + b] = bytes[b * count + i];
  return out;
}

function numbersOf(bytes: Uint8Array, count: number, bits: number): Float64Array {
  const each = Math.abs(bits) / 8;
  if (bytes.length < count * each) throw truncated();
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const read = storedOf[bits];
  return Float64Array.from({ length: count }, (_, i) => read(view, each * i));
}

/** The samples' kind of Rice's code and the like (ZNAMEn, ZVALn). */
function optionsOf({ header }: ImageUnit): Options {
  const named = (name: string, missing: number): number => {
    for (let i = 1; header.value(`ZNAME${i}`) !== undefined; i++)
      if (header.text(`ZNAME${i}`)?.trim() === name) return header.integer(`ZVAL${i}`);
    return missing;
  };
  const block = named('BLOCKSIZE', 32);
  if (block < 1 || block > 2 ** 16) throw damaged(`its Rice code has blocks of ${block}`);
  return { block, bytes: named('BYTEPIX', 4) };
}

const READABLE = ['RICE_1', 'RICE_ONE', 'GZIP_1', 'GZIP_2', 'PLIO_1', 'NOCOMPRESS'];
const MOST_TILES = 2 ** 22;

/** All tiles of the planes that are wanted, one by one. @param bytes the whole unit's data @throws FileError */
export function* tilesOf(
  unit: ImageUnit,
  bytes: Uint8Array,
  wanted: (plane: number) => boolean
): Generator<Tile> {
  const { header, width, height, planes } = unit;
  const kind = header.text('ZCMPTYPE')?.trim() ?? '';
  if (!READABLE.includes(kind)) {
    throw new FileError(
      `Its tiles are compressed by ${kind || 'something unnamed'}, which can’t be read. Save it with RICE_1 or GZIP_1, or uncompressed.`
    );
  }
  const bits = depthOf(header, 'ZBITPIX');
  const columns = columnsOf(unit);
  const axes = header.integer('ZNAXIS');
  const side = (axis: number, missing: number): number =>
    axis > axes ? 1 : header.integer(`ZTILE${axis}`, missing);
  const [tileWidth, tileHeight, tileDepth] = [side(1, width), side(2, 1), side(3, 1)];
  if (!(tileWidth > 0 && tileHeight > 0 && tileDepth > 0)) throw damaged('its tiles have no size');
  if (tileWidth * tileHeight * tileDepth > Math.max(2 ** 24, 4 * width * height))
    throw damaged('its tiles are far larger than the picture');
  for (let i = 4; i <= axes; i++) if (side(i, 1) !== 1) throw damaged('its tiles reach over a fourth axis');
  const [across, down, deep] = [
    Math.ceil(width / tileWidth),
    Math.ceil(height / tileHeight),
    Math.ceil(planes / tileDepth)
  ];
  const rows = header.integer('NAXIS2');
  if (across * down * deep > MOST_TILES) throw damaged('it has far too many tiles');
  if (rows < across * down * deep) throw damaged('some of its tiles are missing');
  const rowBytes = header.integer('NAXIS1');
  const heap = header.integer('THEAP', rowBytes * rows);
  if (rowBytes * rows > bytes.length) throw truncated();
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const scalar = (name: string, row: number, missing: number | null): number | null => {
    const column = columns.get(name);
    if (!column) {
      const value = header.value(name);
      return typeof value === 'number' ? value : missing;
    }
    const read = { J: storedOf[32], K: storedOf[64], E: storedOf[-32], D: storedOf[-64], I: storedOf[16] }[
      column.type
    ];
    if (!read) throw damaged(`its column ${name} holds no numbers`);
    return read(view, row * rowBytes + column.at);
  };
  const content = (name: string, row: number): Uint8Array | null => {
    const column = columns.get(name);
    if (!column || (column.type !== 'P' && column.type !== 'Q')) return null;
    const at = row * rowBytes + column.at;
    const read = column.type === 'P' ? storedOf[32] : storedOf[64];
    const step = column.bytes / 2;
    const [length, from] = [read(view, at), heap + read(view, at + step)];
    if (length === 0) return null;
    const element = /^[^(]*[PQ]([BIJKED])/.exec(header.text(formOf(header, name)) ?? '')?.[1] ?? 'B';
    const end = from + length * BYTES[element];
    if (!(length > 0 && from >= 0 && end <= bytes.length)) throw damaged('a tile lies outside the file');
    return bytes.subarray(from, end);
  };
  const options = optionsOf(unit);
  const how = header.text('ZQUANTIZ')?.trim() ?? 'NO_DITHER';
  const seed = header.integer('ZDITHER0', 1);
  for (let row = 0; row < across * down * deep; row++) {
    const x = (row % across) * tileWidth;
    const y = (Math.floor(row / across) % down) * tileHeight;
    const z = Math.floor(row / (across * down)) * tileDepth;
    const [w, h] = [Math.min(tileWidth, width - x), Math.min(tileHeight, height - y)];
    const d = Math.min(tileDepth, planes - z);
    if (!Array.from({ length: d }, (_, i) => z + i).some(wanted)) continue;
    const count = w * h * d;
    const scale = bits < 0 ? scalar('ZSCALE', row, null) : null;
    const main = content('COMPRESSED_DATA', row);
    const zipped = main ? null : content('GZIP_COMPRESSED_DATA', row);
    const plain = main || zipped ? null : content('UNCOMPRESSED_DATA', row);
    const packed = main ?? zipped ?? plain;
    if (!packed) throw damaged(`its tile ${row + 1} is empty`);
    // Floats are kept as they are where they were not made integers: without a scale, or where that lost too much.
    const isFloat = bits < 0 && (main === null || scale === null || scale === 0);
    const by = plain ? 'NOCOMPRESS' : zipped ? 'GZIP_1' : kind;
    const stored = unpackTile(by, packed, count, bits, isFloat, options);
    const values = new Float64Array(count);
    const blank = scalar('ZBLANK', row, null) ?? scalar('BLANK', row, null);
    if (isFloat || bits > 0) {
      for (let i = 0; i < count; i++) values[i] = bits > 0 && stored[i] === blank ? Number.NaN : stored[i];
    } else
      unquantize(stored, values, {
        scale: scale!,
        zero: scalar('ZZERO', row, 0)!,
        how,
        row: row + seed - 1,
        blank
      });
    for (let i = 0; i < d; i++)
      if (wanted(z + i))
        yield {
          x,
          y,
          plane: z + i,
          width: w,
          height: h,
          values: values.subarray(i * w * h, (i + 1) * w * h)
        };
  }
}

function formOf(header: ImageUnit['header'], name: string): string {
  for (let i = 1; i <= header.integer('TFIELDS'); i++)
    if (header.text(`TTYPE${i}`)?.trim().toUpperCase() === name) return `TFORM${i}`;
  return '';
}

interface Quantized {
  readonly scale: number;
  readonly zero: number;
  readonly how: string;
  /** Where in the random numbers the tile begins. */
  readonly row: number;
  readonly blank: number | null;
}

function unquantize(
  stored: ArrayLike<number>,
  values: Float64Array,
  { scale, zero, how, row, blank }: Quantized
): void {
  const dithers = how.startsWith('SUBTRACTIVE_DITHER');
  const keepsZero = how === 'SUBTRACTIVE_DITHER_2';
  const random = randomValues();
  let from = row % RANDOM;
  let next = Math.trunc(random[from] * 500);
  for (let i = 0; i < values.length; i++) {
    const v = stored[i];
    const isMissing = v === blank || (blank === null && v === NO_VALUE);
    if (isMissing) values[i] = Number.NaN;
    else if (keepsZero && v === EXACT_ZERO) values[i] = 0;
    else values[i] = (dithers ? v - random[next] + 0.5 : v) * scale + zero;
    if (++next < RANDOM) continue;
    from = (from + 1) % RANDOM;
    next = Math.trunc(random[from] * 500);
  }
}
