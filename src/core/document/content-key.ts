import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

const BYTES = 20;

/** A key of fixed length for a content: the first 160 bits of its SHA-256 (FIPS 180-4), in hexadecimal. */
export const contentKey = (content: string): string =>
  bytesToHex(sha256(utf8ToBytes(content)).subarray(0, BYTES));
