import { FlateErrorCode, Gunzip, type FlateError } from 'fflate';
import { joined } from '../deflate';
import { damaged, FileError, truncated } from '../image';

/** The bytes of a file, as far as they have been asked for. */
export interface ByteSource {
  /** The file's bytes up to `end` at least; fewer where it ends before. @throws FileError where it is damaged */
  upTo(end: number): Promise<Uint8Array>;
}

export const plainSource = (bytes: Uint8Array): ByteSource => ({ upTo: () => Promise.resolve(bytes) });

/** What a gzip may hold: a picture of 24 million pixels in three channels of floats is a third of it. */
const MOST_UNPACKED = 2 ** 30;
/** Inflated at a time: at most 1032 times as much comes of it. */
const PIECE = 2 ** 15;

/** The content of a gzip (RFC 1952), of one member or several, inflated as far as it is asked for. */
export function gzipSource(packed: Uint8Array): ByteSource {
  let known: Uint8Array = new Uint8Array();
  let fresh: Uint8Array[] = [];
  let length = 0;
  let used = 0;
  const gunzip = new Gunzip((chunk) => {
    fresh.push(chunk);
    length += chunk.length;
  });
  const push = (): void => {
    const piece = packed.slice(used, used + PIECE);
    used += piece.length;
    try {
      gunzip.push(piece, used >= packed.length);
    } catch (error) {
      throw (error as FlateError).code === FlateErrorCode.UnexpectedEOF
        ? truncated()
        : damaged('its compressed data makes no sense');
    }
  };
  return {
    upTo(end) {
      if (end > MOST_UNPACKED) {
        throw new FileError(
          `Unpacked it would be ${Math.ceil(end / 2 ** 20)} MB, and up to ${MOST_UNPACKED / 2 ** 20} can be read. Unpack it first.`
        );
      }
      while (length < end && used < packed.length) push();
      if (fresh.length > 0) {
        known = joined([known, ...fresh]);
        fresh = [];
      }
      return Promise.resolve(known);
    }
  };
}
