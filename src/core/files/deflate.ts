import { damaged, truncated } from './image';

type Bytes = Uint8Array<ArrayBuffer>;

/** Bytes in memory that is not shared, which the platform's streams ask for. */
export const unshared = (bytes: Uint8Array): Bytes =>
  bytes.buffer instanceof ArrayBuffer ? (bytes as Bytes) : new Uint8Array(bytes);

/**
 * Inflates a zlib stream (RFC 1950) with the platform's own inflate and hands on its chunks.
 * @throws FileError when the stream is damaged or ends too early
 */
export async function* inflate(parts: Iterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const stream = new DecompressionStream('deflate');
  const writer = stream.writable.getWriter();
  const feed = (async () => {
    for (const part of parts) await writer.write(unshared(part));
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

/** Inflates into exactly `length` bytes. @throws FileError when there are fewer; more are not read */
export async function inflateExactly(bytes: Uint8Array, length: number): Promise<Uint8Array> {
  const out = new Uint8Array(length);
  let filled = 0;
  for await (const chunk of inflate([bytes])) {
    const part = chunk.subarray(0, length - filled);
    out.set(part, filled);
    filled += part.length;
    if (filled === length) return out;
  }
  throw truncated();
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
