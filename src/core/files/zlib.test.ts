import { deflateSync, inflateSync } from 'node:zlib';
import { beforeAll, expect, it } from 'vitest';
import { provideNodeWasm } from '../../engine/node/wasm';
import { randomStream } from '../random';
import { inflate } from './deflate';
import { packPart, sumOfParts, ZLIB_BEGINNING, type PackedPart } from './zlib';

beforeAll(provideNodeWasm);

const random = randomStream(4);
/** Bytes that deflate to more than the compressor's room, to nearly nothing, and not at all. */
const noise = Uint8Array.from({ length: 300_000 }, () => random() * 256);
const flat = new Uint8Array(500_000).fill(7);
const one = Uint8Array.of(200);

const ended = (parts: readonly PackedPart[]): Buffer => {
  const end = Buffer.alloc(4);
  end.writeUInt32BE(sumOfParts(parts));
  return Buffer.concat([ZLIB_BEGINNING, ...parts.map(({ bytes }) => bytes), end]);
};

it.each([
  ['one part', [noise]],
  ['several, of every kind', [noise, flat, one, flat, noise]],
  ['parts of nothing', [one, new Uint8Array(0), one]],
  ['exactly the room of a piece', [noise.subarray(0, 65536), flat.subarray(0, 131072)]]
])('packs %s so that zlib inflates them, its sum looked at', async (_, given) => {
  const parts: PackedPart[] = [];
  for (const [i, bytes] of given.entries()) parts.push(await packPart(bytes, i === given.length - 1));
  expect(inflateSync(ended(parts)).equals(Buffer.concat(given))).toBe(true);
});

it('does not depend on the order in which parts are made', async () => {
  const [second, first] = [await packPart(flat, true), await packPart(noise, false)];
  expect(inflateSync(ended([first, second])).equals(Buffer.concat([noise, flat]))).toBe(true);
});

it.each([1000, 65536, 70_001, 400_000])('inflates what comes in parts of %i bytes', async (size) => {
  const content = Buffer.concat([noise, flat, noise]);
  const stream = deflateSync(content);
  const parts = Array.from({ length: Math.ceil(stream.length / size) }, (_, i) =>
    stream.subarray(i * size, (i + 1) * size)
  );
  const chunks: Uint8Array[] = [];
  for await (const chunk of inflate([...parts.slice(0, 2), new Uint8Array(0), ...parts.slice(2)]))
    chunks.push(chunk);
  expect(Buffer.concat(chunks).equals(content)).toBe(true);
});
