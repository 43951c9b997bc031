import { FlateErrorCode, unzlibSync, type FlateError } from 'fflate';
import { damaged, truncated } from './image';

type Bytes = Uint8Array<ArrayBuffer>;

/**
 * A browser inflates a piece that it is given to its end, wanted or not: pieces of this size become at most 67 MB
 * (Deflate's most is 1032 times).
 */
const PIECE = 65536;

/** Bytes in memory that is not shared, which the platform's streams ask for. */
export const unshared = (bytes: Uint8Array): Bytes =>
  bytes.buffer instanceof ArrayBuffer ? (bytes as Bytes) : new Uint8Array(bytes);

/** The same bytes in pieces of `PIECE`, the last perhaps smaller, each to be used before the next is asked for. */
function* pieces(parts: Iterable<Uint8Array>): Generator<Bytes> {
  const piece = new Uint8Array(PIECE);
  let size = 0;
  for (const part of parts) {
    for (let from = 0; from < part.length;) {
      const next = part.subarray(from, from + PIECE - size);
      piece.set(next, size);
      from += next.length;
      size += next.length;
      if (size < PIECE) continue;
      yield piece;
      size = 0;
    }
  }
  if (size > 0) yield piece.subarray(0, size);
}

/**
 * Inflates a zlib stream (RFC 1950) with the platform's own inflate and hands on its chunks, a piece of it at a time: who
 * stops asking stops the inflating.
 * @throws FileError when the stream is damaged or ends too early
 */
export async function* inflate(parts: Iterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const stream = new DecompressionStream('deflate');
  const writer = stream.writable.getWriter();
  const feed = (async () => {
    // Written when it is inflated, or will not be.
    for (const piece of pieces(parts)) await writer.write(piece);
    await writer.close();
  })();
  feed.catch(() => undefined);
  const reader = stream.readable.getReader();
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      yield value;
    }
  } catch (error) {
    throw /end|incomplete|unexpected/i.test((error as Error).message)
      ? truncated()
      : damaged('its compressed data makes no sense');
  } finally {
    reader.cancel().catch(() => undefined);
  }
}

/** What is small is inflated at once: a stream of its own costs more than that. */
const SMALL_PACKED = 2 ** 16;
const SMALL = 2 ** 20;

/**
 * The first `length` bytes of a zlib stream in bands of `band` bytes, each valid until the next is asked for.
 * @throws FileError when there are fewer; more are not read
 */
export async function* inflateBands(
  bytes: Uint8Array,
  length: number,
  band: number
): AsyncGenerator<Uint8Array> {
  if (bytes.length <= SMALL_PACKED && length <= SMALL) {
    const out = inflateSmall(bytes, length);
    for (let from = 0; from < length; from += band) yield out.subarray(from, Math.min(length, from + band));
    return;
  }
  const out = new Uint8Array(Math.min(band, length));
  let left = length;
  let filled = 0;
  for await (const chunk of inflate([bytes])) {
    for (let used = 0; used < chunk.length && left > 0;) {
      const wanted = Math.min(out.length, left);
      const part = chunk.subarray(used, used + wanted - filled);
      out.set(part, filled);
      filled += part.length;
      used += part.length;
      if (filled < wanted) continue;
      yield out.subarray(0, filled);
      left -= filled;
      filled = 0;
    }
    if (left === 0) return;
  }
  throw truncated();
}

function inflateSmall(bytes: Uint8Array, length: number): Uint8Array {
  let out: Uint8Array;
  try {
    // What does not fit into `out` is left out.
    out = unzlibSync(bytes, { out: new Uint8Array(length) });
  } catch (error) {
    throw (error as FlateError).code === FlateErrorCode.UnexpectedEOF
      ? truncated()
      : damaged('its compressed data makes no sense');
  }
  if (out.length < length) throw truncated();
  return out;
}

/** Everything that a zlib stream holds, up to `most` bytes. */
export async function inflateAll(bytes: Uint8Array, most: number): Promise<Uint8Array> {
  const chunks: Uint8Array[] = [];
  let length = 0;
  for await (const chunk of inflate([bytes])) {
    length += chunk.length;
    if (length > most) throw damaged('a part of it is far too large');
    chunks.push(chunk);
  }
  return joined(chunks);
}

export function joined(chunks: readonly Uint8Array[]): Bytes {
  const out = new Uint8Array(chunks.reduce((sum, c) => sum + c.length, 0));
  let at = 0;
  for (const chunk of chunks) {
    out.set(chunk, at);
    at += chunk.length;
  }
  return out;
}
