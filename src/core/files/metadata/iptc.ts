import { joined } from '../deflate';

/** IPTC-IIM 4.2: each data set begins with this mark. */
const MARK = 0x1c;
/** Of the application record: where it was taken. */
const PLACES = [26, 27, 90, 92, 95, 100, 101];
/** A small picture of it, and what that is stored as. */
const PREVIEWS = [200, 201, 202];
const APPLICATION = 2;

/**
 * Data sets for a picture that was made of the one they came with: without its small picture, and, where it is asked for, without its place.
 * @returns null where they are damaged
 */
export function editedIptc(bytes: Uint8Array, withoutPlace: boolean): Uint8Array | null {
  const kept: Uint8Array[] = [];
  let at = 0;
  while (at < bytes.length) {
    // Some fill it up to a whole word.
    if (bytes[at] === 0) {
      at++;
      continue;
    }
    if (bytes[at] !== MARK || at + 5 > bytes.length) return null;
    const [record, set] = [bytes[at + 1], bytes[at + 2]];
    let length = (bytes[at + 3] << 8) | bytes[at + 4];
    let from = at + 5;
    if (length & 0x8000) {
      // A long one: so many bytes say how long it is.
      const digits = length & 0x7fff;
      if (digits > 4 || from + digits > bytes.length) return null;
      length = 0;
      for (let i = 0; i < digits; i++) length = length * 256 + bytes[from++];
    }
    if (from + length > bytes.length) return null;
    const gone = record === APPLICATION && (PREVIEWS.includes(set) || (withoutPlace && PLACES.includes(set)));
    if (!gone) kept.push(bytes.subarray(at, from + length));
    at = from + length;
  }
  return joined(kept);
}
