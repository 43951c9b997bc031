import { crc32 } from './crc';
import { joined } from './deflate';
import { finishedChannels, type FinishedImage } from './image';
import { filterPaeth } from './png-filter';

const latin = new TextEncoder();

function chunk(type: string, content: Uint8Array): Uint8Array[] {
  const name = latin.encode(type);
  const ends = new Uint8Array(12);
  const view = new DataView(ends.buffer);
  view.setUint32(0, content.length);
  ends.set(name, 4);
  view.setUint32(8, crc32(name, content));
  return [ends.subarray(0, 8), content, ends.subarray(8)];
}

/**
 * PNG, 8 or 16 bit by the samples' type, tagged sRGB.
 * @param onProgress is told the part of the rows that is done, and may throw to stop
 */
export async function writePng(
  image: FinishedImage,
  onProgress?: (part: number) => void
): Promise<Uint8Array> {
  const { width, height, alpha, grey, samples } = image;
  const wide = samples instanceof Uint16Array;
  const header = new Uint8Array(13);
  const view = new DataView(header.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  header.set([wide ? 16 : 8, grey ? 0 : alpha ? 6 : 2, 0, 0, 0], 8);
  const parts = [Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a), ...chunk('IHDR', header)];
  // Rendering intent 1: relative colorimetric.
  parts.push(...chunk('sRGB', Uint8Array.of(1)));
  const stream = new CompressionStream('deflate');
  const packed = collect(stream.readable);
  packed.catch(() => undefined);
  const writer = stream.writable.getWriter();
  try {
    await writeRows(image, writer, onProgress);
    await writer.close();
  } catch (error) {
    await writer.abort(error).catch(() => undefined);
    throw error;
  }
  for (const data of await packed) parts.push(...chunk('IDAT', data));
  parts.push(...chunk('IEND', new Uint8Array(0)));
  return joined(parts);
}

/** Bytes that are handed to be deflated at a time. */
const PIECE = 2 ** 18;

async function writeRows(
  { width, height, samples, ...kind }: FinishedImage,
  writer: WritableStreamDefaultWriter<BufferSource>,
  onProgress?: (part: number) => void
): Promise<void> {
  const length = width * finishedChannels(kind);
  const wide = samples instanceof Uint16Array;
  const rowBytes = wide ? 2 * length : length;
  const pixelBytes = rowBytes / width;
  const rowsAtOnce = Math.max(1, Math.floor(PIECE / (rowBytes + 1)));
  let piece = new Uint8Array(0);
  let row = new Uint8Array(rowBytes);
  let above = new Uint8Array(rowBytes);
  for (let y = 0; y < height; y++) {
    const from = samples.subarray(y * length, (y + 1) * length);
    if (!wide) row.set(from as Uint8Array);
    else {
      for (let i = 0; i < length; i++) {
        row[2 * i] = from[i] >> 8;
        row[2 * i + 1] = from[i];
      }
    }
    const at = (y % rowsAtOnce) * (rowBytes + 1);
    if (at === 0) piece = new Uint8Array(Math.min(rowsAtOnce, height - y) * (rowBytes + 1));
    filterPaeth(row, above, pixelBytes, piece.subarray(at, at + rowBytes + 1));
    // Fewer, larger pieces: each costs the stream a turn.
    if (at + rowBytes + 1 === piece.length) await writer.write(piece);
    [row, above] = [above, row];
    if (y % 64 === 0) onProgress?.(y / height);
  }
}

/** The stream's content in pieces of about a megabyte. */
async function collect(stream: ReadableStream<Uint8Array>): Promise<Uint8Array[]> {
  const pieces: Uint8Array[] = [];
  let pending: Uint8Array[] = [];
  let size = 0;
  const flush = (): void => {
    if (size > 0) pieces.push(joined(pending));
    pending = [];
    size = 0;
  };
  const reader = stream.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    pending.push(value);
    size += value.length;
    if (size > 2 ** 20) flush();
  }
  flush();
  return pieces;
}
