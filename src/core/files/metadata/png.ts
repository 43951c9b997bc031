import { zlibSync } from 'fflate';
import { crc32 } from '../crc';
import { inflateAll, joined } from '../deflate';
import { latin } from '../latin';
import { imageResources, iptcOf, RESOURCES } from './resources';
import type { Metadata } from '.';

/** Chunks of a PNG (W3C, third edition) that carry metadata: eXIf, and texts by names that are agreed on. */
const TELLING = ['eXIf', 'iTXt', 'zTXt', 'tEXt'];
const XMP = 'XML:com.adobe.xmp';
/** Blocks as lines of hexadecimal digits; not in the standard, but what is read and written everywhere. */
const RAW = 'Raw profile type ';
const TEXT_DAMAGED = 'A text in it, which tells of the picture, is damaged and was left behind.';
/** Of the name of a text, as the standard has it. */
const LONGEST_NAME = 79;
const MOST_TEXT = 2 ** 24;
const DIGITS_A_LINE = 72;

/** Those whose check sum is right. */
function* tellingChunks(
  bytes: Uint8Array
): Generator<{ readonly type: string; readonly content: Uint8Array }> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 8; at + 12 <= bytes.length;) {
    const end = at + 8 + view.getUint32(at);
    const type = latin(bytes.subarray(at + 4, at + 8));
    if (end + 4 > bytes.length) return;
    if (TELLING.includes(type) && crc32(bytes.subarray(at + 4, end)) === view.getUint32(end))
      yield { type, content: bytes.subarray(at + 8, end) };
    at = end + 4;
  }
}

/** Which block a text of that name holds. */
function blockOf(name: string): 'exif' | 'iptc' | 'xmp' | null {
  if (name === XMP) return 'xmp';
  const kind = name.startsWith(RAW) ? name.slice(RAW.length).toLowerCase() : '';
  if (kind === 'exif' || kind === 'app1') return 'exif';
  return kind === 'iptc' || kind === 'xmp' ? kind : null;
}

/** What a text says behind its name. */
async function textOf(type: string, content: Uint8Array, end: number): Promise<Uint8Array | null> {
  if (type === 'tEXt') return content.subarray(end + 1);
  if (type === 'zTXt') return inflateAll(content.subarray(end + 2), MOST_TEXT);
  const [packed] = content.subarray(end + 1);
  const language = content.indexOf(0, end + 3);
  const translated = language < 0 ? -1 : content.indexOf(0, language + 1);
  if (translated < 0) return null;
  const text = content.subarray(translated + 1);
  return packed ? inflateAll(text, MOST_TEXT) : text;
}

/** The bytes that lines of digits stand for: behind a name, and how many they are. */
function rawBytes(text: Uint8Array): Uint8Array | null {
  const [, count, digits] =
    /^\n?[^\n]+\n\s*(\d+)\n([\da-fA-F\s]*)$/.exec(new TextDecoder('latin1').decode(text)) ?? [];
  if (digits === undefined) return null;
  const hex = digits.replace(/\s/g, '');
  if (hex.length < 2 * Number(count)) return null;
  return Uint8Array.from({ length: Number(count) }, (_, i) =>
    Number.parseInt(hex.slice(2 * i, 2 * i + 2), 16)
  );
}

const without = (bytes: Uint8Array | null, name: string): Uint8Array | null =>
  bytes && latin(bytes.subarray(0, name.length)) === name ? bytes.subarray(name.length) : bytes;

/** @param notices is told where a text is damaged */
export async function pngMetadata(bytes: Uint8Array, notices: string[]): Promise<Metadata> {
  const found: { exif?: Uint8Array; iptc?: Uint8Array; xmp?: Uint8Array } = {};
  const tried = new Set<string>();
  for (const { type, content } of tellingChunks(bytes)) {
    if (type === 'eXIf') {
      found.exif ??= content;
      continue;
    }
    const end = content.indexOf(0);
    const name = latin(content.subarray(0, Math.max(0, Math.min(end, LONGEST_NAME))));
    const block = blockOf(name);
    // The first of each counts: no others are unpacked.
    if (!block || tried.has(block)) continue;
    tried.add(block);
    const said = await textOf(type, content, end).catch(() => void notices.push(TEXT_DAMAGED));
    if (!said) continue;
    const raw = name === XMP ? said : rawBytes(said);
    if (block === 'xmp') found.xmp ??= raw ?? undefined;
    else if (block === 'iptc') {
      const blocks = without(raw, RESOURCES);
      found.iptc ??= (blocks && (iptcOf(blocks) ?? (blocks[0] === 0x1c ? blocks : null))) ?? undefined;
    } else {
      const exif = without(raw, 'Exif\0\0');
      if (exif && /^(II|MM)$/.test(latin(exif.subarray(0, 2)))) found.exif ??= exif;
    }
  }
  return found;
}

/** The name and the content of each chunk for a new file. */
export function pngTexts({ exif, iptc, xmp }: Metadata): [type: string, content: Uint8Array][] {
  const encode = (text: string): Uint8Array => new TextEncoder().encode(text);
  const chunks: [string, Uint8Array][] = [];
  if (exif) chunks.push(['eXIf', exif]);
  // Neither packed, nor of a language, nor translated.
  if (xmp) chunks.push(['iTXt', joined([encode(`${XMP}\0\0\0\0\0`), xmp])]);
  if (iptc) {
    const blocks = imageResources(iptc);
    const digits = Array.from(blocks, (v) => v.toString(16).padStart(2, '0')).join('');
    const lines = digits.replace(new RegExp(`.{${DIGITS_A_LINE}}`, 'g'), '$&\n');
    const text = encode(`\niptc\n${`${blocks.length}`.padStart(8)}\n${lines}\n`);
    chunks.push(['zTXt', joined([encode(`${RAW}iptc\0\0`), zlibSync(text)])]);
  }
  return chunks;
}
