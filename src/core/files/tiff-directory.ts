import { damaged, truncated } from './image';

/** Where a tag's values lie in the file; they are read when they are asked for. */
interface Field {
  readonly type: number;
  readonly count: number;
  readonly at: number;
}

/** A field as it stands in the file, in its order of bytes. */
export interface TiffEntry {
  readonly tag: number;
  readonly type: number;
  readonly count: number;
  readonly bytes: Uint8Array;
}
/** Of BigTIFF alone: numbers of 8 bytes. */
const EIGHT_BYTES = [16, 17, 18];

/** The image file directory of TIFF 6.0 (section 2): tag → values. */
export class TiffDirectory {
  constructor(
    private readonly view: DataView,
    private readonly fields: ReadonlyMap<number, Field>,
    readonly littleEndian: boolean,
    private readonly counting: Counting,
    /** Where the fields end. */
    readonly end: number
  ) {}

  /** What any TIFF may hold of it; what lies outside the file is left out. */
  entries(): TiffEntry[] {
    return [...this.fields].flatMap(([tag, { type, count, at }]) => {
      const length = count * TYPE_BYTES[type];
      if (EIGHT_BYTES.includes(type) || at + length > this.view.byteLength) return [];
      return { tag, type, count, bytes: new Uint8Array(this.view.buffer, this.view.byteOffset + at, length) };
    });
  }

  /** The directory that a tag leads to; null where there is none in the file. */
  under(tag: number): TiffDirectory | null {
    const at = this.value(tag);
    return at === undefined ? null : directoryAt(this.view, at, this.counting, this.littleEndian);
  }

  get size(): number {
    return this.fields.size;
  }

  has(tag: number): boolean {
    return this.fields.has(tag);
  }

  /** How many values the tag claims; 0 where it is missing. */
  count(tag: number): number {
    return this.fields.get(tag)?.count ?? 0;
  }

  /** Value `i` of the tag; undefined where it has none. @throws FileError where it lies outside the file */
  value(tag: number, i = 0): number | undefined {
    const field = this.fields.get(tag);
    if (!field || i >= field.count) return undefined;
    const at = field.at + i * TYPE_BYTES[field.type];
    if (at + TYPE_BYTES[field.type] > this.view.byteLength) throw truncated();
    return readValue(this.view, at, field.type, this.littleEndian);
  }

  /** The first `most` values of the tag. @throws FileError */
  values(tag: number, most: number): number[] {
    return Array.from({ length: Math.min(most, this.count(tag)) }, (_, i) => this.value(tag, i)!);
  }

  /** What the tag holds as bytes, not copied; null where it is missing. @throws FileError */
  bytes(tag: number): Uint8Array | null {
    const field = this.fields.get(tag);
    if (!field) return null;
    const length = field.count * TYPE_BYTES[field.type];
    if (field.at + length > this.view.byteLength) throw truncated();
    return new Uint8Array(this.view.buffer, this.view.byteOffset + field.at, length);
  }

  /** @throws FileError where the tag is missing and has no default */
  first(tag: number, otherwise?: number): number {
    const value = this.value(tag) ?? otherwise;
    if (value === undefined) throw damaged(`its tag ${tag} is missing`);
    return value;
  }
}

const TYPE_BYTES: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
  13: 4,
  16: 8,
  17: 8,
  18: 8
};
const SUBFILE_TYPE = 254;
/** Bits of a picture that is a preview of another, or its mask. */
const NO_PAGE = 1 | 4;
/** A file has a few previews before its picture; a chain that goes on for longer leads nowhere. */
const MOST_DIRECTORIES = 256;
/** Once there is a picture, no more are looked for behind so many fields. */
const MOST_FIELDS = 2 ** 16;

export function isTiff(bytes: Uint8Array): boolean {
  const order = String.fromCharCode(bytes[0], bytes[1]);
  return (order === 'II' && [42, 43].includes(bytes[2])) || (order === 'MM' && [42, 43].includes(bytes[3]));
}

/** How a file counts: by numbers of 4 bytes (TIFF 6.0), or of 8 (BigTIFF). */
interface Counting {
  readonly big: boolean;
  /** Bytes of the count of a directory's fields, of a field, and of what lies in a field itself. */
  readonly counts: number;
  readonly field: number;
  readonly own: number;
  /** Where a file says where its first directory lies. */
  readonly first: number;
}
const SMALL: Counting = { big: false, counts: 2, field: 12, own: 4, first: 4 };
const BIG: Counting = { big: true, counts: 8, field: 20, own: 8, first: 8 };

/** A number of 8 bytes; what is beyond those that are exact lies beyond any file. */
const eight = (view: DataView, at: number, littleEndian: boolean): number =>
  Number(view.getBigUint64(at, littleEndian));
const placeAt = (view: DataView, at: number, { big }: Counting, littleEndian: boolean): number =>
  big ? eight(view, at, littleEndian) : view.getUint32(at, littleEndian);

/**
 * The directories of all full pictures, in order; reduced previews and masks are passed over. Where there is no other, that of the first.
 * Behind the first picture the chain may end early: what can't be followed is not there.
 * @throws FileError where there is no picture
 */
export function readPages(bytes: Uint8Array): readonly TiffDirectory[] {
  const littleEndian = bytes[0] === 0x49;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 8) throw truncated();
  const counting = view.getUint16(2, littleEndian) === 43 ? BIG : SMALL;
  if (bytes.length < counting.first + counting.own) throw truncated();
  const seen = new Set<number>();
  const pages: TiffDirectory[] = [];
  let first: TiffDirectory | null = null;
  let fields = 0;
  for (let at = placeAt(view, counting.first, counting, littleEndian); at !== 0 && !seen.has(at);) {
    seen.add(at);
    if (seen.size > MOST_DIRECTORIES) {
      if (pages.length > 0) break;
      throw damaged(`more than ${MOST_DIRECTORIES} previews stand before its picture`);
    }
    const directory = directoryAt(view, at, counting, littleEndian);
    if (!directory && pages.length > 0) break;
    if (!directory) throw truncated();
    if ((directory.first(SUBFILE_TYPE, 0) & NO_PAGE) === 0) pages.push(directory);
    first ??= directory;
    fields += directory.size;
    if (pages.length > 0 && fields > MOST_FIELDS) break;
    at = placeAt(view, directory.end, counting, littleEndian);
  }
  if (!first) throw damaged('it holds no picture');
  return pages.length > 0 ? pages : [first];
}

/** @returns null where it does not lie within the file */
function directoryAt(
  view: DataView,
  at: number,
  counting: Counting,
  littleEndian: boolean
): TiffDirectory | null {
  const { counts, field, own, big } = counting;
  if (at + counts > view.byteLength) return null;
  const count = big ? eight(view, at, littleEndian) : view.getUint16(at, littleEndian);
  const end = at + counts + field * count;
  if (end + own > view.byteLength) return null;
  const fields = readFields(view, at + counts, count, counting, littleEndian);
  return new TiffDirectory(view, fields, littleEndian, counting, end);
}

function readFields(
  view: DataView,
  at: number,
  count: number,
  counting: Counting,
  littleEndian: boolean
): Map<number, Field> {
  const fields = new Map<number, Field>();
  const { field, own } = counting;
  for (let i = 0; i < count; i++, at += field) {
    const type = view.getUint16(at + 2, littleEndian);
    const length = placeAt(view, at + 4, counting, littleEndian);
    const size = TYPE_BYTES[type];
    if (!size) continue;
    const value = at + field - own;
    const from = size * length <= own ? value : placeAt(view, value, counting, littleEndian);
    fields.set(view.getUint16(at, littleEndian), { type, count: length, at: from });
  }
  return fields;
}

function readValue(view: DataView, at: number, type: number, littleEndian: boolean): number {
  switch (type) {
    case 3:
      return view.getUint16(at, littleEndian);
    case 4:
    case 13:
      return view.getUint32(at, littleEndian);
    case 16:
    case 18:
      return eight(view, at, littleEndian);
    case 17:
      return Number(view.getBigInt64(at, littleEndian));
    case 5:
      return view.getUint32(at, littleEndian) / view.getUint32(at + 4, littleEndian);
    case 8:
      return view.getInt16(at, littleEndian);
    case 9:
      return view.getInt32(at, littleEndian);
    case 10:
      return view.getInt32(at, littleEndian) / view.getInt32(at + 4, littleEndian);
    case 11:
      return view.getFloat32(at, littleEndian);
    case 12:
      return view.getFloat64(at, littleEndian);
    default:
      return view.getUint8(at);
  }
}
