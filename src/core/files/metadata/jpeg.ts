import { createMD5 } from 'hash-wasm';
import { joined } from '../deflate';
import { latin } from '../latin';
import { partOf } from '../wasm';
import { imageResources, iptcOf, RESOURCES } from './resources';
import type { Metadata } from '.';

/** Segments of a JPEG (ITU-T T.81) that carry metadata: APP1 (CIPA DC-008 4.7.2, ISO 16684-3 7.4) and APP13 (IPTC-IIM). */
const [MARKER, SCAN, APP1, APP13] = [0xff, 0xda, 0xe1, 0xed];
const EXIF = 'Exif\0\0';
const XMP = 'http://ns.adobe.com/xap/1.0/\0';
const XMP_MORE = 'http://ns.adobe.com/xmp/extension/\0';
/** Bytes of a segment beside the two that say how many. */
const MOST = 65533;
export const JPEG_MOST_EXIF = MOST - EXIF.length;
/** Digest, length of all, and place of this part. */
const MORE_HEAD = 40;
const MOST_XMP = 2 ** 22;

const text = new TextEncoder();
const xmpEditor = partOf('reads and writes what stands in XMP', () => import('./xmp'));

const after = (content: Uint8Array, name: string): Uint8Array | null =>
  latin(content.subarray(0, name.length)) === name ? content.subarray(name.length) : null;

/** @throws FileError where the part that reads XMP can't be loaded */
export async function jpegMetadata(bytes: Uint8Array): Promise<Metadata> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const found: { exif?: Uint8Array; xmp?: Uint8Array } = {};
  const resources: Uint8Array[] = [];
  const more: Uint8Array[] = [];
  for (let at = 2; at + 4 <= bytes.length && bytes[at] === MARKER;) {
    const marker = bytes[at + 1];
    if (marker === MARKER) {
      at++;
      continue;
    }
    if (marker === SCAN) break;
    const content = bytes.subarray(at + 4, at + 2 + view.getUint16(at + 2));
    if (marker === APP1) {
      found.exif ??= after(content, EXIF) ?? undefined;
      found.xmp ??= after(content, XMP) ?? undefined;
      const part = after(content, XMP_MORE);
      if (part && part.length > MORE_HEAD) more.push(part);
    } else if (marker === APP13) {
      const part = after(content, RESOURCES);
      if (part) resources.push(part);
    }
    at += 2 + view.getUint16(at + 2);
  }
  const iptc = iptcOf(joined(resources)) ?? undefined;
  const { exif, xmp } = found;
  return { exif, iptc, xmp: xmp && more.length > 0 ? await withMore(xmp, more) : xmp };
}

/** The packet with those parts that are named in it. */
async function withMore(xmp: Uint8Array, parts: readonly Uint8Array[]): Promise<Uint8Array> {
  const packet = new TextDecoder('latin1').decode(xmp);
  const named = parts.filter((part) => packet.includes(latin(part.subarray(0, 32))));
  if (named.length === 0) return xmp;
  const numberOf = (part: Uint8Array, at: number): number =>
    new DataView(part.buffer, part.byteOffset).getUint32(at);
  const length = numberOf(named[0], 32);
  if (length > MOST_XMP || length > named.reduce((sum, part) => sum + part.length, 0)) return xmp;
  const whole = new Uint8Array(length);
  for (const part of named) {
    const content = part.subarray(MORE_HEAD);
    const at = numberOf(part, 36);
    if (at + content.length > length) return xmp;
    whole.set(content, at);
  }
  return (await xmpEditor()).joinedXmp(xmp, whole);
}

const segment = (marker: number, ...parts: Uint8Array[]): Uint8Array => {
  const content = joined(parts);
  const length = content.length + 2;
  return joined([Uint8Array.of(MARKER, marker, length >> 8, length & 255), content]);
};

/** Segments for a new file; an EXIF block of more than one segment has no place there, and is left out. */
export async function jpegSegments({ exif, iptc, xmp }: Metadata): Promise<Uint8Array[]> {
  const segments: Uint8Array[] = [];
  if (exif && exif.length <= JPEG_MOST_EXIF) segments.push(segment(APP1, text.encode(EXIF), exif));
  if (xmp && xmp.length + XMP.length <= MOST) segments.push(segment(APP1, text.encode(XMP), xmp));
  else if (xmp) segments.push(...(await inParts(xmp)));
  if (iptc) {
    const resources = imageResources(iptc);
    const most = MOST - RESOURCES.length;
    for (let at = 0; at < resources.length; at += most)
      segments.push(segment(APP13, bytesOf(RESOURCES), resources.subarray(at, at + most)));
  }
  return segments;
}

const bytesOf = (name: string): Uint8Array => Uint8Array.from(name, (c) => c.charCodeAt(0));

/** A packet that names the parts that follow it. */
async function inParts(xmp: Uint8Array): Promise<Uint8Array[]> {
  const { xmpBody, xmpNaming } = await xmpEditor();
  const body = xmpBody(xmp);
  if (!body) return [];
  const md5 = await createMD5();
  const digest = md5.init().update(body).digest('hex').toUpperCase();
  const segments = [segment(APP1, text.encode(XMP), xmpNaming(digest))];
  const most = MOST - XMP_MORE.length - MORE_HEAD;
  for (let at = 0; at < body.length; at += most) {
    const numbers = new DataView(new ArrayBuffer(8));
    numbers.setUint32(0, body.length);
    numbers.setUint32(4, at);
    const head = [text.encode(XMP_MORE), text.encode(digest), new Uint8Array(numbers.buffer)];
    segments.push(segment(APP1, ...head, body.subarray(at, at + most)));
  }
  return segments;
}
