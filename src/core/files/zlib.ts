import { adler32 } from 'hash-wasm';
import { joined } from './deflate';
import { once, wasmModule } from './wasm';

/** The compressor of zlib, built for WebAssembly. */
interface Zlib {
  readonly memory: WebAssembly.Memory;
  malloc(bytes: number): number;
  free(address: number): void;
  deflate_new(): number;
  deflate_init_raw(stream: number, level: number): number;
  /** Bytes that were written, and from bit 24 on zlib's return code. */
  deflate_process(
    stream: number,
    from: number,
    length: number,
    to: number,
    room: number,
    flush: number
  ): number;
  deflate_last_consumed(stream: number): number;
  deflate_end(stream: number): number;
}

const load = once(async (): Promise<Zlib> => {
  const instance = await WebAssembly.instantiate(await wasmModule('deflate'), {});
  return instance.exports as unknown as Zlib;
});

/** Of zlib.h. */
const [NO_FLUSH, FULL_FLUSH, FINISH] = [0, 3, 4];
const STREAM_END = 1;
const PIECE = 2 ** 16;
/** Samples of photographs hold little that comes again: more effort takes twice the time and saves little. */
const LEVEL = 1;

/** A part of a zlib stream (RFC 1950) without its ends, that can follow any other. */
export interface PackedPart {
  /** Deflated (RFC 1951), up to a whole byte. */
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Adler-32 and length of what it holds. */
  readonly sum: number;
  readonly length: number;
}

/** What stands at the beginning of a zlib stream: Deflate, a window of 32 kB, fast. */
export const ZLIB_BEGINNING = Uint8Array.of(0x78, 0x01);

/**
 * Deflates one part of a zlib stream by itself, so that parts are made side by side and put together after.
 * @param last whether nothing follows it
 * @throws FileError where the compressor can't be had
 */
export async function packPart(bytes: Uint8Array, last: boolean): Promise<PackedPart> {
  const zlib = await load();
  const [stream, from, to] = [zlib.deflate_new(), zlib.malloc(PIECE), zlib.malloc(PIECE)];
  const out: Uint8Array[] = [];
  const process = (length: number, flush: number): boolean => {
    const result = zlib.deflate_process(stream, from, length, to, PIECE, flush);
    const count = result & 0xffffff;
    const code = result >> 24;
    if (count === 0 && code < 0 && flush === FINISH) throw new RangeError(`the compressor failed: ${code}`);
    if (count > 0) out.push(new Uint8Array(zlib.memory.buffer, to, count).slice());
    return count === PIECE || (flush === FINISH && code !== STREAM_END);
  };
  try {
    if (zlib.deflate_init_raw(stream, LEVEL) !== 0) throw new RangeError('no memory for the compressor');
    for (let at = 0; at < bytes.length;) {
      const piece = bytes.subarray(at, at + PIECE);
      new Uint8Array(zlib.memory.buffer, from, piece.length).set(piece);
      process(piece.length, NO_FLUSH);
      at += zlib.deflate_last_consumed(stream);
    }
    // As long as what comes out fills its room, there is more.
    while (process(0, last ? FINISH : FULL_FLUSH));
  } finally {
    zlib.deflate_end(stream);
    zlib.free(from);
    zlib.free(to);
  }
  return { bytes: joined(out), sum: Number.parseInt(await adler32(bytes), 16), length: bytes.length };
}

const BASE = 65521;

/** Adler-32 (RFC 1950, section 8.2) of parts that follow each other, of their own sums and lengths. */
export function sumOfParts(parts: readonly Pick<PackedPart, 'sum' | 'length'>[]): number {
  let [a, b] = [1, 0];
  for (const { sum, length } of parts) {
    const [a2, b2] = [sum & 0xffff, sum >>> 16];
    b = (b + b2 + (length % BASE) * (a + BASE - 1)) % BASE;
    a = (a + a2 + BASE - 1) % BASE;
  }
  return ((b << 16) | a) >>> 0;
}
