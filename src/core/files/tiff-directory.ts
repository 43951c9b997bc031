import { damaged, FileError, truncated } from './image';

/** The image file directory of TIFF 6.0 (section 2): tag → values. */
export class TiffDirectory {
  constructor(
    private readonly fields: ReadonlyMap<number, readonly number[]>,
    readonly littleEndian: boolean
  ) {}

  has(tag: number): boolean {
    return this.fields.has(tag);
  }

  values(tag: number): readonly number[] {
    return this.fields.get(tag) ?? [];
  }

  /** @throws FileError where the tag is missing and has no default */
  first(tag: number, otherwise?: number): number {
    const value = this.fields.get(tag)?.[0] ?? otherwise;
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
  12: 8
};
const SUBFILE_TYPE = 254;

export function isTiff(bytes: Uint8Array): boolean {
  const order = String.fromCharCode(bytes[0], bytes[1]);
  return (order === 'II' && [42, 43].includes(bytes[2])) || (order === 'MM' && [42, 43].includes(bytes[3]));
}

/** The directory of the first full picture; reduced previews before it are passed over. */
export function readDirectory(bytes: Uint8Array): TiffDirectory {
  const littleEndian = bytes[0] === 0x49;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 8) throw truncated();
  if (view.getUint16(2, littleEndian) === 43) {
    throw new FileError('BigTIFF files can’t be read. Save it as a plain TIFF or a PNG.');
  }
  const seen = new Set<number>();
  let first: TiffDirectory | null = null;
  for (let at = view.getUint32(4, littleEndian); at !== 0 && !seen.has(at);) {
    seen.add(at);
    if (at + 2 > bytes.length) throw truncated();
    const count = view.getUint16(at, littleEndian);
    if (at + 2 + 12 * count + 4 > bytes.length) throw truncated();
    const directory = new TiffDirectory(readFields(view, at + 2, count, littleEndian), littleEndian);
    if ((directory.first(SUBFILE_TYPE, 0) & 1) === 0) return directory;
    first ??= directory;
    at = view.getUint32(at + 2 + 12 * count, littleEndian);
  }
  if (!first) throw damaged('it holds no picture');
  return first;
}

function readFields(view: DataView, at: number, count: number, littleEndian: boolean): Map<number, number[]> {
  const fields = new Map<number, number[]>();
  for (let i = 0; i < count; i++, at += 12) {
    const type = view.getUint16(at + 2, littleEndian);
    const length = view.getUint32(at + 4, littleEndian);
    const size = TYPE_BYTES[type];
    if (!size) continue;
    const from = size * length <= 4 ? at + 8 : view.getUint32(at + 8, littleEndian);
    if (from + size * length > view.byteLength) throw truncated();
    fields.set(view.getUint16(at, littleEndian), readValues(view, from, type, length, littleEndian));
  }
  return fields;
}

function readValues(
  view: DataView,
  from: number,
  type: number,
  length: number,
  littleEndian: boolean
): number[] {
  const at = (i: number): number => from + i * TYPE_BYTES[type];
  const read: Record<number, (i: number) => number> = {
    3: (i) => view.getUint16(at(i), littleEndian),
    4: (i) => view.getUint32(at(i), littleEndian),
    5: (i) => view.getUint32(at(i), littleEndian) / view.getUint32(at(i) + 4, littleEndian),
    8: (i) => view.getInt16(at(i), littleEndian),
    9: (i) => view.getInt32(at(i), littleEndian),
    10: (i) => view.getInt32(at(i), littleEndian) / view.getInt32(at(i) + 4, littleEndian),
    11: (i) => view.getFloat32(at(i), littleEndian),
    12: (i) => view.getFloat64(at(i), littleEndian)
  };
  const one = read[type] ?? ((i: number) => view.getUint8(at(i)));
  return Array.from({ length }, (_, i) => one(i));
}
