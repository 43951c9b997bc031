import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { parseDocument } from '$core/document';
import { change } from '$core/document/history';
import { contentHash } from '$core/files/content-hash';
import { Library, type StoredDocument } from './library';

const document = parseDocument({
  kromba: 1,
  kind: 'document',
  name: 'Jug',
  frames: [{ id: 'f1', name: 'jug', file: 'jug.png' }],
  pictures: [{ id: 'p1', name: 'Jug', head: { kind: 'frame', frame: 'f1' }, steps: [] }]
});
const stored = (id: string, modifiedAt: number, hash = 'h'): StoredDocument => ({
  id,
  document,
  files: { f1: hash },
  createdAt: 1,
  modifiedAt,
  position: 0,
  selection: null,
  deletedAt: null
});

let library: Library;
const read = async (hash: string): Promise<Uint8Array | null> => {
  const file = await library.file(hash);
  return file && new Uint8Array(await file.arrayBuffer());
};
let count = 0;
beforeEach(async () => {
  library = await Library.open(`test-${count++}`);
});

describe('the library', () => {
  it('lists the newest first', async () => {
    await library.save(stored('a', 10), [], 0);
    await library.save(stored('b', 30), [], 0);
    await library.save(stored('c', 20), [], 0);
    expect((await library.list()).map((d) => d.id)).toEqual(['b', 'c', 'a']);
  });

  it('keeps the history, and cuts what a new change replaced', async () => {
    const one = change(document, 'one', (d) => void (d.name = 'One'));
    const two = change(one.document, 'two', (d) => void (d.name = 'Two'));
    const other = change(one.document, 'other', (d) => void (d.name = 'Other'));
    await library.save(
      { ...stored('a', 1), document: two.document, position: 2 },
      [one.entry!, two.entry!],
      0
    );
    await library.save(
      { ...stored('a', 2), document: other.document, position: 2 },
      [one.entry!, other.entry!],
      1
    );
    const loaded = await library.load('a');
    expect(loaded?.history.map((e) => e.label)).toEqual(['one', 'other']);
    expect(loaded?.stored.document.name).toBe('Other');
  });

  it('keeps a file once and drops it with its last document', async () => {
    const bytes = Uint8Array.of(1, 2, 3);
    const hash = await contentHash(new Blob([bytes]));
    await library.keepFile(hash, new Blob([bytes]));
    // SHA-256 of 01 02 03.
    expect(hash).toBe('039058c6f2c0cb492c533b0a4d14ef77cc0f78abccced5287d84a1a2011cfb81');
    await library.keepFile(hash, new Blob([bytes]));
    await library.save(stored('a', 1, hash), [], 0);
    const copy = await library.duplicate('a');
    expect(copy?.document.name).toBe('Jug copy');
    await library.remove('a');
    await library.purge(Date.now() + 1);
    expect(await read(hash)).toEqual(bytes);
    await library.remove(copy!.id);
    await library.purge(Date.now() + 1);
    expect(await library.file(hash)).toBeNull();
  });

  it('drops a file only while no document uses it', async () => {
    const bytes = Uint8Array.of(7);
    const hash = await contentHash(new Blob([bytes]));
    await library.keepFile(hash, new Blob([bytes]));
    await library.save(stored('a', 1, hash), [], 0);
    await library.dropFile(hash);
    expect(await read(hash)).toEqual(bytes);
    await library.keepFile('other', new Blob([bytes]));
    await library.dropFile('other');
    expect(await library.file('other')).toBeNull();
  });

  it('brings a deleted document back', async () => {
    await library.save(stored('a', 1), [], 0);
    await library.remove('a');
    expect(await library.list()).toEqual([]);
    expect(await library.load('a')).toBeNull();
    await library.restore('a');
    await library.rename('a', 'Bowl');
    expect((await library.list())[0].document.name).toBe('Bowl');
  });

  it('says plainly when the disk is full, and keeps what was saved', async () => {
    await library.save(stored('a', 1), [], 0);
    const full = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    const failing = library.save({ ...stored('a', 2), document: { ...document, name: 'New' } }, [], 0);
    await expect(failing).rejects.toThrow(/is full\. The last change is not saved.*Export/);
    full.mockRestore();
    expect((await library.load('a'))?.stored.document.name).toBe('Jug');
  });
});
