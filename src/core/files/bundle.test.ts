import { strToU8, zipSync } from 'fflate';
import { expect, it } from 'vitest';
import { parseDocument, type KrombaDocument } from '../document';
import { packBundle, unpackBundle } from './bundle';

const document = parseDocument({
  kromba: 1,
  kind: 'document',
  name: 'Jug',
  frames: [{ id: 'f1', name: 'jug', file: 'jug.png' }],
  pictures: [{ id: 'p1', name: 'Jug', head: { kind: 'frame', frame: 'f1' }, steps: [] }]
});
const image = Uint8Array.from({ length: 5000 }, (_, i) => i % 251);

const blob = (bytes: Uint8Array): Blob => new Blob([new Uint8Array(bytes)]);
const bytesOf = async (file: Blob | undefined): Promise<Uint8Array> =>
  new Uint8Array(await (file ?? new Blob([])).arrayBuffer());
const withFrames = (...names: string[]): KrombaDocument =>
  parseDocument({
    ...document,
    frames: names.map((file, i) => ({ id: `f${i + 1}`, name: 'x', file }))
  });

it('comes back as it was packed', async () => {
  const bundle = await unpackBundle(await packBundle({ document, files: new Map([['f1', blob(image)]]) }));
  expect(bundle.document).toEqual(document);
  expect(await bytesOf(bundle.files.get('f1'))).toEqual(image);
});

it('keeps frames apart whose files have one name, and the document from one of its own name', async () => {
  const files = [1, 2, 3, 4].map((v) => Uint8Array.of(v, v, v));
  const packed = await packBundle({
    document: withFrames('jug.png', 'jug.png', 'jug (2).png', 'document.kromba.json'),
    files: new Map(files.map((bytes, i) => [`f${i + 1}`, blob(bytes)]))
  });
  const bundle = await unpackBundle(packed);
  expect(bundle.document.frames.map((f) => f.file)).toEqual([
    'jug.png',
    'jug (2).png',
    'jug (2) (2).png',
    'document.kromba (2).json'
  ]);
  for (const [i, bytes] of files.entries()) {
    expect(await bytesOf(bundle.files.get(`f${i + 1}`))).toEqual(bytes);
  }
});

it('holds a file once that two frames share', async () => {
  const shared = blob(image);
  const packed = await packBundle({
    document: withFrames('jug.png', 'jug.png'),
    files: new Map([
      ['f1', shared],
      ['f2', shared]
    ])
  });
  expect(packed.size).toBeLessThan(2 * image.length);
  const { files } = await unpackBundle(packed);
  expect(await bytesOf(files.get('f2'))).toEqual(image);
});

/** A bundle by another packer, its file changed after it was packed. */
function damagedInside(): Uint8Array {
  const zip = zipSync(
    { 'document.kromba.json': strToU8(JSON.stringify(document)), 'jug.png': image },
    { level: 0 }
  );
  const at = Buffer.from(zip).indexOf(Buffer.from(image.subarray(0, 40)));
  zip[at + 100] ^= 1;
  return zip;
}

it.each([
  ['a zip without a document', zipSync({ 'notes.txt': strToU8('x') }), 'holds no document.kromba.json'],
  [
    'a zip without the frame',
    zipSync({ 'document.kromba.json': strToU8(JSON.stringify(document)) }),
    'The file “jug.png” of the frame “jug” is missing'
  ],
  ['a zip with a broken document', zipSync({ 'document.kromba.json': strToU8('{') }), 'This is not JSON'],
  [
    'half a zip',
    zipSync({ 'document.kromba.json': strToU8(JSON.stringify(document)) }).subarray(0, 200),
    'no complete zip'
  ],
  [
    'a zip with a file that is not what was packed',
    damagedInside(),
    'The file “jug.png” in the bundle is damaged'
  ],
  ['something else', strToU8('hello there, this is no zip'), 'no complete zip']
])('refuses %s', async (_, bytes, message) => {
  await expect(unpackBundle(blob(bytes))).rejects.toThrow(message);
});
