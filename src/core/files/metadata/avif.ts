import { big, box, boxedExif, boxes, exifOfBox, Numbers, within, type Box } from '../boxes';
import { joined } from '../deflate';
import { damaged } from '../image';
import { latin } from '../latin';
import type { Metadata } from '.';

/** Metadata of an AVIF are items beside its picture, which refer to it (ISO/IEC 23008-12, annex A; ISO/IEC 14496-12, 8.11). */
const XMP_KIND = 'application/rdf+xml';
const ASCII = new TextEncoder();
const VERSION_2 = 2;
const IN_META = 1;
const MOST_ITEMS = 65535;
const MOST_EXTENTS = 2 ** 18;
/** More than this no metadata hold. */
const MOST_BYTES = 2 ** 24;

interface Extent {
  readonly offset: number;
  readonly length: number;
}
/** Where an item's bytes lie: in the file, or in a part of its head. */
interface Place {
  readonly item: number;
  readonly inMeta: boolean;
  readonly extents: readonly Extent[];
}

/** @throws FileError */
function placesOf(location: Box): Place[] {
  const numbers = new Numbers(location);
  const { version } = numbers.begin();
  const [sizes, more] = [numbers.next(1), numbers.next(1)];
  const number = (bytes: number): number => {
    if (bytes === 8) return numbers.next(4) * 2 ** 32 + numbers.next(4);
    return bytes === 4 ? numbers.next(4) : 0;
  };
  const wide = version === 2 ? 4 : 2;
  let left = MOST_EXTENTS;
  return Array.from({ length: Math.min(numbers.next(wide), MOST_ITEMS) }, () => {
    const item = numbers.next(wide);
    const inMeta = version > 0 && (numbers.next(2) & 15) === IN_META;
    numbers.next(2);
    const base = number(more >> 4);
    const count = numbers.next(2);
    left -= count;
    if (left < 0) throw damaged('its parts lie in too many places');
    const extents = Array.from({ length: count }, () => {
      if (version > 0) number(more & 15);
      return { offset: base + number(sizes >> 4), length: number(sizes & 15) };
    });
    return { item, inMeta, extents };
  });
}

/** Items that are metadata: their number, and of which kind. @throws FileError */
function* tellingItems(bytes: Uint8Array, information: Box): Generator<[item: number, kind: 'exif' | 'xmp']> {
  const wide = new Numbers(information).begin().version === 0 ? 2 : 4;
  for (const entry of within(bytes, information, 4 + wide)) {
    const numbers = new Numbers(entry);
    const { version } = numbers.begin();
    if (version < VERSION_2) continue;
    const item = numbers.next(version === VERSION_2 ? 2 : 4);
    const rest = entry.content.subarray(version === VERSION_2 ? 8 : 10);
    const type = latin(rest.subarray(0, 4));
    if (type === 'Exif') yield [item, 'exif'];
    else if (type === 'mime') {
      const kind = rest.subarray(rest.indexOf(0, 4) + 1);
      if (latin(kind.subarray(0, XMP_KIND.length)) === XMP_KIND) yield [item, 'xmp'];
    }
  }
}

interface Head {
  readonly meta: Box;
  readonly parts: readonly Box[];
  part(type: string): Box | undefined;
}
function headOf(bytes: Uint8Array): Head | null {
  const meta = [...boxes(bytes, 0, bytes.length)].find(({ type }) => type === 'meta');
  if (!meta) return null;
  const parts = within(bytes, meta, 4);
  return { meta, parts, part: (name) => parts.find(({ type }) => type === name) };
}

/** @throws FileError */
export function avifMetadata(bytes: Uint8Array): Metadata {
  const head = headOf(bytes);
  const [information, location] = ['iinf', 'iloc'].map((type) => head?.part(type));
  const found: { exif?: Uint8Array; xmp?: Uint8Array } = {};
  if (!information || !location) return found;
  const places = placesOf(location);
  const inside = head?.part('idat')?.content ?? new Uint8Array(0);
  for (const [item, kind] of tellingItems(bytes, information)) {
    const place = found[kind] ? undefined : places.find((p) => p.item === item);
    if (!place) continue;
    const from = place.inMeta ? inside : bytes;
    // A length of 0 stands for all that follows.
    const parts = place.extents.map(({ offset, length }) =>
      from.subarray(offset, length === 0 ? undefined : offset + length)
    );
    if (parts.reduce((sum, { length }) => sum + length, 0) > MOST_BYTES) continue;
    const content = joined(parts);
    if (kind === 'exif') found.exif ??= exifOfBox(content);
    else found.xmp ??= content;
  }
  return found;
}

/**
 * The file with EXIF and XMP at its end, as items that refer to its picture; IPTC has no place in it.
 * @param bytes of a file whose items lie in it at places of 32 bits, as its codec writes them
 */
export function withAvifMetadata(bytes: Uint8Array, primary: number, { exif, xmp }: Metadata): Uint8Array {
  const told = [
    ...(exif ? [{ content: boxedExif(exif), entry: (item: number) => itemEntry(item, 'Exif') }] : []),
    ...(xmp ? [{ content: xmp, entry: (item: number) => itemEntry(item, 'mime', `${XMP_KIND}\0`) }] : [])
  ];
  if (told.length === 0) return bytes;
  const head = headOf(bytes);
  const [information, location, references] = ['iinf', 'iloc', 'iref'].map((type) => head?.part(type));
  if (!head || !information || !location) throw damaged('it holds no picture header');
  const places = placesOf(location);
  const first = 1 + Math.max(primary, ...places.map(({ item }) => item));
  const items = told.map((one, i) => ({ ...one, item: first + i }));
  const refer = items.map(({ item }) => box('cdsc', big(2, item), big(2, 1), big(2, primary)));
  const entries = within(bytes, information, 6).map(wholeBox);
  const made = (shift: number, behind: number): Uint8Array => {
    let at = behind;
    const own = items.map(({ item, content }) => {
      const place = { item, inMeta: false, extents: [{ offset: at - shift, length: content.length }] };
      at += content.length;
      return place;
    });
    const parts = head.parts.map((part) => {
      if (part === location) return locations([...places, ...own], shift);
      if (part === information)
        return box(
          'iinf',
          big(4, 0),
          big(2, entries.length + items.length),
          ...entries,
          ...items.map(({ item, entry }) => entry(item))
        );
      if (part === references) return box('iref', part.content, ...refer);
      return wholeBox(part);
    });
    if (!references) parts.push(box('iref', big(4, 0), ...refer));
    return box('meta', head.meta.content.subarray(0, 4), ...parts);
  };
  const before = bytes.subarray(0, startOf(bytes, head.meta));
  const after = bytes.subarray(head.meta.at + head.meta.content.length);
  const shift = made(0, 0).length - (bytes.length - before.length - after.length);
  const end = bytes.length + shift;
  return joined([before, made(shift, end + 8), after, box('mdat', ...items.map(({ content }) => content))]);
}

const startOf = (bytes: Uint8Array, { at }: Box): number =>
  // A length of 8 bytes stands between its name and its content.
  latin(bytes.subarray(at - 12, at - 8)) === 'meta' ? at - 16 : at - 8;

const wholeBox = ({ type, content }: Box): Uint8Array => box(type, content);

/** An item by its number and what it is, without a name. */
const itemEntry = (item: number, type: string, kind = ''): Uint8Array =>
  // Version 2 without flags; of no protection.
  box('infe', big(4, VERSION_2 << 24), big(2, item), big(2, 0), ASCII.encode(`${type}\0${kind}`));

/** Where all items lie, those in the file so much further behind. */
function locations(places: readonly Place[], shift: number): Uint8Array {
  const parts = places.flatMap(({ item, inMeta, extents }) => [
    ...[big(2, item), big(2, inMeta ? IN_META : 0), big(2, 0), big(2, extents.length)],
    ...extents.flatMap(({ offset, length }) => [big(4, offset + (inMeta ? 0 : shift)), big(4, length)])
  ]);
  // Version 1; offsets and lengths of 4 bytes, no base, no index.
  return box('iloc', big(4, 1 << 24), big(1, 0x44), big(1, 0), big(2, places.length), ...parts);
}
