import { strToU8, zipSync } from 'fflate';
import { expect, it } from 'vitest';
import { parseDocument } from '../document';
import { packBundle, unpackBundle } from './bundle';

const document = parseDocument({
  kromba: 1,
  kind: 'document',
  name: 'Jug',
  frames: [{ id: 'f1', name: 'jug', file: 'jug.png' }],
  pictures: [{ id: 'p1', name: 'Jug', head: { kind: 'frame', frame: 'f1' }, steps: [] }]
});
const image = Uint8Array.from({ length: 5000 }, (_, i) => i % 251);

it('comes back as it was packed', async () => {
  const bundle = await unpackBundle(await packBundle({ document, files: new Map([['jug.png', image]]) }));
  expect(bundle.document).toEqual(document);
  expect(bundle.files.get('jug.png')).toEqual(image);
});

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
  ['something else', strToU8('hello there, this is no zip'), 'no complete zip']
])('refuses %s', async (_, bytes, message) => {
  await expect(unpackBundle(bytes)).rejects.toThrow(message);
});
