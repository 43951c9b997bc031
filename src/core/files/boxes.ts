import { joined } from './deflate';
import { damaged, truncated } from './image';
import { latin } from './latin';

/** A box of ISO/IEC 14496-12. */
export interface Box {
  readonly type: string;
  /** Where its content begins. */
  readonly at: number;
  readonly content: Uint8Array;
}

/** The boxes of a content, one after another. @throws FileError */
export function* boxes(bytes: Uint8Array, from: number, to: number): Generator<Box> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = from; at + 8 <= to;) {
    const type = latin(bytes.subarray(at + 4, at + 8));
    let [length, head] = [view.getUint32(at), 8];
    if (length === 1) {
      if (at + 16 > to) throw truncated();
      [length, head] = [Number(view.getBigUint64(at + 8)), 16];
    } else if (length === 0) length = to - at;
    if (length < head) throw damaged('one of its parts has no length');
    if (at + length > to) throw truncated();
    yield { type, at: at + head, content: bytes.subarray(at + head, at + length) };
    at += length;
  }
}

export const within = (bytes: Uint8Array, { at, content }: Box, skip = 0): Box[] => [
  ...boxes(bytes, at + skip, at + content.length)
];

/** Reads whole numbers one after another. @throws FileError where the box ends before */
export class Numbers {
  private at = 0;
  private readonly view: DataView;
  constructor({ content }: Box) {
    this.view = new DataView(content.buffer, content.byteOffset, content.length);
  }

  next(bytes: 1 | 2 | 4): number {
    const at = this.at;
    if (at + bytes > this.view.byteLength) throw damaged('one of its parts is shorter than it says');
    this.at += bytes;
    return bytes === 1
      ? this.view.getUint8(at)
      : bytes === 2
        ? this.view.getUint16(at)
        : this.view.getUint32(at);
  }

  /** The version of the box, and its flags. */
  begin(): { readonly version: number; readonly flags: number } {
    const word = this.next(4);
    return { version: word >>> 24, flags: word & 0xffffff };
  }
}

const ascii = new TextEncoder();

/** A number of so many bytes, most significant first. */
export function big(bytes: 1 | 2 | 4, value: number): Uint8Array {
  const view = new DataView(new ArrayBuffer(bytes));
  if (bytes === 1) view.setUint8(0, value);
  else if (bytes === 2) view.setUint16(0, value);
  else view.setUint32(0, value);
  return new Uint8Array(view.buffer);
}

/** A box of its own. */
export function box(type: string, ...parts: readonly Uint8Array[]): Uint8Array {
  const length = parts.reduce((sum, part) => sum + part.length, 8);
  return joined([big(4, length), ascii.encode(type), ...parts]);
}

/** An EXIF block as boxes hold it: behind where its header begins in it. */
export const boxedExif = (exif: Uint8Array): Uint8Array => joined([big(4, 0), exif]);

/** The block without what is before its header; undefined where that lies beyond its end. */
export function exifOfBox(content: Uint8Array): Uint8Array | undefined {
  if (content.length < 12) return undefined;
  const view = new DataView(content.buffer, content.byteOffset, content.byteLength);
  const from = 4 + view.getUint32(0);
  return from < content.length ? content.subarray(from) : undefined;
}
