import { joined } from '../deflate';

/** Image resource blocks, in which files of several formats keep data sets of IPTC: a mark, a number, a name, a length, and what they hold. */
const MARK = [0x38, 0x42, 0x49, 0x4d];
const IPTC = 0x0404;
/** What a segment of a JPEG begins with that holds such blocks. */
export const RESOURCES = String.fromCharCode(
  ...[0x50, 0x68, 0x6f, 0x74, 0x6f, 0x73, 0x68, 0x6f, 0x70, 0x20, 0x33, 0x2e, 0x30, 0]
);

/** The data sets of IPTC among blocks; null where there are none. */
export function iptcOf(blocks: Uint8Array): Uint8Array | null {
  const view = new DataView(blocks.buffer, blocks.byteOffset, blocks.byteLength);
  for (let at = 0; at + 12 <= blocks.length && MARK.every((v, i) => blocks[at + i] === v);) {
    // The name is filled up to an even length, its own length with it.
    const name = 1 + blocks[at + 6];
    const head = at + 6 + name + (name & 1);
    if (head + 4 > blocks.length) return null;
    const length = view.getUint32(head);
    if (head + 4 + length > blocks.length) return null;
    if (view.getUint16(at + 4) === IPTC) return blocks.subarray(head + 4, head + 4 + length);
    at = head + 4 + length + (length & 1);
  }
  return null;
}

/** One block of data sets of IPTC. */
export function imageResources(iptc: Uint8Array): Uint8Array {
  const head = new DataView(new ArrayBuffer(12));
  MARK.forEach((v, i) => head.setUint8(i, v));
  head.setUint16(4, IPTC);
  head.setUint32(8, iptc.length);
  return joined([new Uint8Array(head.buffer), iptc, new Uint8Array(iptc.length & 1)]);
}
