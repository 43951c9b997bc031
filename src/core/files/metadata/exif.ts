import type { MetadataEdit } from '.';
import { joined } from '../deflate';
import { damaged } from '../image';
import { latin } from '../latin';
import type { TiffDirectory, TiffEntry } from '../tiff-directory';

/** Tags of EXIF (CIPA DC-008-2023), by the directory that they stand in. */
const MAIN = {
  width: 0x100,
  height: 0x101,
  make: 0x10f,
  model: 0x110,
  orientation: 0x112,
  host: 0x13c,
  exif: 0x8769,
  gps: 0x8825,
  uniqueModel: 0xc614,
  cameraSerial: 0xc62f,
  /** How its values were to be understood: transfer function, white point, primaries, coefficients, black and white. */
  colours: [0x12d, 0x13e, 0x13f, 0x211, 0x214]
};
const EXIF = {
  makerNote: 0x927c,
  colourSpace: 0xa001,
  width: 0xa002,
  height: 0xa003,
  interoperability: 0xa005,
  imageId: 0xa420,
  owner: 0xa430,
  bodySerial: 0xa431,
  firmware: 0xa439,
  /** Temperature, humidity, pressure, depth of water, acceleration, and how far the camera looked up. */
  surroundings: [0x9400, 0x9401, 0x9402, 0x9403, 0x9404, 0x9405],
  lens: [0xa432, 0xa433, 0xa434, 0xa435],
  components: 0x9101,
  /** How far it was compressed, and a curve of its own. */
  stored: [0x9102, 0xa500]
};
/** The word for the colour space in the directory of interoperability. */
const RULE = 1;
const RULES = { srgb: 'R98', 'adobe-rgb': 'R03' } as const;
/** Tags of TIFF that speak of how pixels are stored or lie, or hold a block of their own: they are not of the picture that is written. */
const OF_PIXELS = new Set([
  ...[254, 255, 256, 257, 258, 259, 262, 263, 264, 265, 266, 273, 277, 278, 279, 280, 281, 284],
  ...[288, 289, 290, 291, 292, 293, 297, 300, 301, 317, 318, 319, 320, 321, 322, 323, 324, 325, 330],
  ...[332, 333, 334, 336, 338, 339, 340, 341, 342, 343, 344, 345, 346, 347, 351, 400, 401],
  ...[512, 513, 514, 515, 517, 518, 519, 520, 521, 529, 530, 531, 532, 559, 700],
  ...[32995, 32996, 32997, 32998, 33421, 33422, 33550, 33723, 33920, 33922, 34264, 34377, 34675],
  ...[34735, 34736, 34737, 37724, 42112, 42113]
]);
const TYPE_BYTES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4];
/** Bytes of what is turned round with the order of bytes. */
const WORDS = [0, 1, 1, 2, 4, 4, 1, 1, 2, 4, 4, 4, 8, 4];
const [ASCII, SHORT, LONG] = [2, 3, 4];
/** Luminance, two colours, and no fourth: what JPEG is written with. */
const YCBCR = [1, 2, 3, 0];
/** What some write between the header and the first directory of a bare block, by which they tell it from a file. */
const BARE = 'ExifMeta';
const SRGB = 1;
const UNCALIBRATED = 0xffff;
const HEADER = 8;

interface Entry {
  readonly tag: number;
  readonly type: number;
  readonly count: number;
  /** Where the entry begins, and its value. */
  readonly at: number;
  readonly value: number;
  readonly bytes: number;
}

/** Where its thumbnail lies, and how long it is. */
const THUMBNAIL = [0x201, 0x202] as const;

class Block {
  private readonly view: DataView;
  private little: boolean;

  /** @throws RangeError where it is none */
  constructor(readonly bytes: Uint8Array<ArrayBuffer>) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const order = this.view.getUint16(0);
    if (order !== 0x4949 && order !== 0x4d4d) throw new RangeError('no order of bytes');
    this.little = order === 0x4949;
    if (this.short(2) !== 42) throw new RangeError('no TIFF');
  }

  get first(): number {
    return this.long(4);
  }

  short(at: number): number {
    return this.view.getUint16(at, this.little);
  }
  long(at: number): number {
    return this.view.getUint32(at, this.little);
  }
  setShort(at: number, value: number): void {
    this.view.setUint16(at, value, this.little);
  }
  setLong(at: number, value: number): void {
    this.view.setUint32(at, value, this.little);
  }

  entries(at: number): Entry[] {
    const count = this.short(at);
    if (count > MOST_ENTRIES) throw new RangeError('too many fields');
    if (at + 2 + 12 * count + 4 > this.bytes.length) throw new RangeError('a directory is cut off');
    let claimed = 0;
    return Array.from({ length: count }, (_, i) => {
      const entry = at + 2 + 12 * i;
      const type = this.short(entry + 2);
      const number = this.long(entry + 4);
      const bytes = (TYPE_BYTES[type] ?? 1) * number;
      const value = bytes <= 4 ? entry + 8 : this.long(entry + 8);
      if (value + bytes > this.bytes.length) throw new RangeError('a value lies beyond the end');
      claimed += bytes;
      if (claimed > 4 * this.bytes.length) throw new RangeError('values lie in each other');
      return { tag: this.short(entry), type, count: number, at: entry, value, bytes };
    });
  }

  /** Takes entries out of a directory, their values with them; what stands behind moves up. */
  remove(at: number, tags: readonly number[]): void {
    const all = this.entries(at);
    const gone = all.filter(({ tag }) => tags.includes(tag));
    if (gone.length === 0) return;
    const next = this.long(at + 2 + 12 * all.length);
    const kept = all.filter(({ tag }) => !tags.includes(tag)).map((e) => this.bytes.slice(e.at, e.at + 12));
    for (const { value, bytes } of gone) this.bytes.fill(0, value, value + bytes);
    this.setShort(at, kept.length);
    kept.forEach((entry, i) => this.bytes.set(entry, at + 2 + 12 * i));
    const end = at + 2 + 12 * kept.length;
    this.setLong(end, next);
    this.bytes.fill(0, end + 4, at + 2 + 12 * all.length + 4);
  }

  /** Sets a whole number that is there already. */
  set(entry: Entry | undefined, value: number): void {
    if (!entry || entry.count !== 1) return;
    if (entry.type === SHORT && value > 65535) {
      this.setShort(entry.at + 2, LONG);
      this.setLong(entry.value, value);
    } else if (entry.type === SHORT) this.setShort(entry.value, value);
    else if (entry.type === LONG) this.setLong(entry.value, value);
  }

  /** Turns all of it round that is not little endian; what makers put there stays as it is. @param directories where they begin */
  toLittle(directories: readonly number[]): void {
    if (this.little) return;
    const turned = new Set<number>();
    const turn = (at: number, bytes: number): void => void this.bytes.subarray(at, at + bytes).reverse();
    for (const at of new Set(directories)) {
      const entries = this.entries(at);
      for (const { at: field, type, count, value } of entries) {
        const word = WORDS[type] ?? 1;
        if (!turned.has(value))
          for (let i = 0; i < count * ((TYPE_BYTES[type] ?? 1) / word); i++) turn(value + i * word, word);
        turned.add(value);
        if (value !== field + 8) turn(field + 8, 4);
        [0, 2].forEach((from) => turn(field + from, 2));
        turn(field + 4, 4);
      }
      turn(at, 2);
      turn(at + 2 + 12 * entries.length, 4);
    }
    this.bytes.set([0x49, 0x49]);
    [2, 4].forEach((at) => turn(at, at));
    this.little = true;
  }

  find(at: number, tag: number): Entry | undefined {
    return this.entries(at).find((entry) => entry.tag === tag);
  }
  /** Where a directory begins that an entry leads to; null where there is none. */
  under(at: number, tag: number): number | null {
    const entry = this.find(at, tag);
    return entry ? this.long(entry.value) : null;
  }
  /** Of the main one, what was taken how, where, and how it is exchanged. */
  directories(): { main: number; exif: number | null; gps: number | null; rule: number | null } {
    const main = this.first;
    const exif = this.under(main, MAIN.exif);
    const rule = exif === null ? null : this.under(exif, EXIF.interoperability);
    return { main, exif, gps: this.under(main, MAIN.gps), rule };
  }

  wipeDirectory(at: number): void {
    for (const { value, bytes } of this.entries(at)) this.bytes.fill(0, value, value + bytes);
    this.bytes.fill(0, at, at + 2 + 12 * this.short(at) + 4);
  }
}

/** More than this no block holds; a directory of a few fields may claim all of a file for each. */
const MOST_BYTES = 2 ** 24;
const MOST_ENTRIES = 1000;

/** @returns what `work` makes of a block; null where the block is damaged */
function within<T>(exif: Uint8Array, work: (block: Block) => T): T | null {
  if (exif.length > MOST_BYTES) return null;
  try {
    return work(new Block(new Uint8Array(exif)));
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
}

/**
 * An EXIF block for a picture that was made of the one it came with: upright, without its thumbnail, with its own size and colours. All else
 * stays where it lies, so that what camera makers put there stays readable. @returns null where the block is damaged
 */
export const editedExif = (exif: Uint8Array, edit: MetadataEdit): Uint8Array | null =>
  within(exif, (block) => {
    const { main, exif: inner, gps, rule } = block.directories();
    block.set(block.find(main, MAIN.orientation), 1);
    block.set(block.find(main, MAIN.width), edit.width);
    block.set(block.find(main, MAIN.height), edit.height);
    block.remove(main, MAIN.colours);
    if (inner !== null) {
      block.set(block.find(inner, EXIF.width), edit.width);
      block.set(block.find(inner, EXIF.height), edit.height);
      block.set(block.find(inner, EXIF.colourSpace), edit.space === 'srgb' ? SRGB : UNCALIBRATED);
      block.remove(inner, EXIF.stored);
      const components = block.find(inner, EXIF.components);
      if (components?.bytes === 4) block.bytes.set(YCBCR, components.value);
      const word = rule === null ? undefined : block.find(rule, RULE);
      if (edit.space === 'other') block.remove(inner, [EXIF.interoperability]);
      else if (word?.type === ASCII && word.count === 4)
        [...RULES[edit.space]].forEach((c, i) => (block.bytes[word.value + i] = c.charCodeAt(0)));
    }
    if (edit.withoutPlace) {
      if (gps !== null) block.wipeDirectory(gps);
      if (inner !== null)
        block.remove(inner, [
          ...[EXIF.makerNote, EXIF.imageId, EXIF.owner, EXIF.bodySerial, EXIF.firmware],
          ...EXIF.lens,
          ...EXIF.surroundings
        ]);
      block.remove(main, [MAIN.gps, MAIN.make, MAIN.model, MAIN.host, MAIN.uniqueModel, MAIN.cameraSerial]);
    }
    return withoutThumbnail(block, main);
  });

/** What of an EXIF block stands in a TIFF's own directory: its bytes, which the file begins with, and the fields that lead to them. */
export interface ExifInTiff {
  /** From the file's first byte on, little endian, all offsets of it counted from there. */
  readonly beginning: Uint8Array;
  /** Fields of 12 bytes, by their tags. */
  readonly fields: ReadonlyMap<number, Uint8Array>;
}

/** @returns null where the block is damaged */
export const exifInTiff = (exif: Uint8Array): ExifInTiff | null =>
  within(exif, (block) => {
    const { main, exif: inner, gps, rule } = block.directories();
    block.toLittle([main, inner, gps, rule].filter((at) => at !== null));
    if (latin(block.bytes.subarray(HEADER, HEADER + BARE.length)) === BARE)
      block.bytes.fill(0, HEADER, HEADER + BARE.length);
    const fields = block
      .entries(main)
      .filter(({ tag }) => !OF_PIXELS.has(tag))
      .map(({ tag, at }): [number, Uint8Array] => [tag, block.bytes.slice(at, at + 12)]);
    return { beginning: block.bytes, fields: new Map(fields) };
  });

/**
 * The EXIF block of a TIFF, whose directory holds what it says among what it says of its pixels.
 * @returns null where it says nothing @throws FileError where it claims more than any such block holds
 */
export function exifOfTiff(directory: TiffDirectory): Uint8Array | null {
  const entries = directory
    .entries()
    .filter(({ tag }) => !OF_PIXELS.has(tag) && ![MAIN.exif, MAIN.gps].includes(tag));
  const inner = directory.under(MAIN.exif);
  const gps = directory.under(MAIN.gps);
  const rule = inner?.under(EXIF.interoperability);
  if (entries.length === 0 && !inner && !gps) return null;
  const claimed = [entries, ...[inner, gps, rule].map((one) => one?.entries() ?? [])].flat();
  if (claimed.reduce((sum, { bytes }) => sum + bytes.length, 0) > MOST_BYTES || claimed.length > MOST_ENTRIES)
    throw damaged('what it tells is larger than it can be');
  const { littleEndian: little } = directory;
  const out = new DataView(new ArrayBuffer(HEADER));
  new Uint8Array(out.buffer).fill(little ? 0x49 : 0x4d, 0, 2);
  out.setUint16(2, 42, little);
  const parts: Uint8Array[] = [new Uint8Array(out.buffer)];
  let end = HEADER;
  const place = (fields: readonly TiffEntry[]): number => {
    const at = end;
    const packed = packDirectory(fields, at, little);
    parts.push(packed);
    end += packed.length;
    return at;
  };
  const leading = (tag: number, to: number): TiffEntry => {
    const bytes = new Uint8Array(4);
    new DataView(bytes.buffer).setUint32(0, to, little);
    return { tag, type: LONG, count: 1, bytes };
  };
  if (gps) entries.push(leading(MAIN.gps, place(gps.entries())));
  if (inner) {
    const own = inner.entries().filter(({ tag }) => tag !== EXIF.interoperability);
    if (rule) own.push(leading(EXIF.interoperability, place(rule.entries())));
    entries.push(leading(MAIN.exif, place(own)));
  }
  out.setUint32(4, place(entries), little);
  return joined(parts);
}

/** A directory that begins at `at`, with its values behind it. */
function packDirectory(fields: readonly TiffEntry[], at: number, little: boolean): Uint8Array {
  const sorted = [...fields].sort((a, b) => a.tag - b.tag);
  const head = new Uint8Array(2 + 12 * sorted.length + 4);
  const view = new DataView(head.buffer);
  view.setUint16(0, sorted.length, little);
  const values: Uint8Array[] = [];
  let end = at + head.length;
  sorted.forEach(({ tag, type, count, bytes }, i) => {
    const field = 2 + 12 * i;
    view.setUint16(field, tag, little);
    view.setUint16(field + 2, type, little);
    view.setUint32(field + 4, count, little);
    if (bytes.length <= 4) return head.set(bytes, field + 8);
    view.setUint32(field + 8, end, little);
    const padded = new Uint8Array(bytes.length + (bytes.length & 1));
    padded.set(bytes);
    values.push(padded);
    end += padded.length;
  });
  return joined([head, ...values]);
}

/** What lies at the end goes, what lies between is wiped. */
function withoutThumbnail(block: Block, main: number): Uint8Array {
  const link = main + 2 + 12 * block.short(main);
  const second = block.long(link);
  if (second === 0) return block.bytes;
  block.setLong(link, 0);
  const entries = block.entries(second);
  const [from, length] = THUMBNAIL.map((tag) => {
    const entry = entries.find((e) => e.tag === tag);
    return entry ? block.long(entry.value) : 0;
  });
  let end = block.bytes.length;
  if (length > 0 && from + length <= end) {
    block.bytes.fill(0, from, from + length);
    if (from > second && from + length >= end - 1) end = from;
  }
  block.wipeDirectory(second);
  return block.bytes.subarray(0, end);
}
