import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { openDB } from 'idb';
import { parseDocument, parseLook } from '$core/document';
import { change } from '$core/document/history';
import { contentHash } from '$core/files/content-hash';
import { Library, LostDocumentError, type StoredDocument } from './library';

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
let name = '';
beforeEach(async () => {
  name = `test-${count++}`;
  library = await Library.open(name);
});

describe('the library', () => {
  it('lists the newest first', async () => {
    await library.add(stored('a', 10));
    await library.add(stored('b', 30));
    await library.add(stored('c', 20));
    expect((await library.list()).map((d) => d.id)).toEqual(['b', 'c', 'a']);
  });

  it('keeps the history, and cuts what a new change replaced', async () => {
    const one = change(document, 'one', (d) => void (d.name = 'One'));
    const two = change(one.document, 'two', (d) => void (d.name = 'Two'));
    const other = change(one.document, 'other', (d) => void (d.name = 'Other'));
    await library.add({ ...stored('a', 1), document: two.document, position: 2 }, [one.entry!, two.entry!]);
    await library.save(
      { ...stored('a', 2), document: other.document, position: 2 },
      [one.entry!, other.entry!],
      1
    );
    const loaded = await library.load('a');
    expect(loaded?.history.map((e) => e.label)).toEqual(['one', 'other']);
    expect(loaded?.stored.document.name).toBe('Other');
  });

  it('keeps a file once, until no document uses it', async () => {
    const bytes = Uint8Array.of(1, 2, 3);
    const hash = await contentHash(new Blob([bytes]));
    await library.keepFile(hash, new Blob([bytes]));
    // SHA-256 of 01 02 03.
    expect(hash).toBe('039058c6f2c0cb492c533b0a4d14ef77cc0f78abccced5287d84a1a2011cfb81');
    await library.keepFile(hash, new Blob([bytes]));
    await library.keepFile('unused', new Blob([bytes]));
    await library.add(stored('a', 1, hash));
    const copy = await library.duplicate('a');
    expect(copy.document.name).toBe('Jug copy');
    await library.sweep();
    expect(await library.file('unused')).toBeNull();
    await library.end(['a']);
    await library.sweep();
    expect(await read(hash)).toEqual(bytes);
    await library.remove(copy.id);
    await library.sweep();
    // A deleted document can still be put back, its file with it.
    expect(await read(hash)).toEqual(bytes);
    await library.end([copy.id]);
    await library.sweep();
    expect(await library.file(hash)).toBeNull();
  });

  it('brings a deleted document back', async () => {
    await library.add(stored('a', 1));
    await library.remove('a');
    expect(await library.list()).toEqual([]);
    expect((await library.deleted()).map((d) => d.id)).toEqual(['a']);
    expect(await library.load('a')).toBeNull();
    await library.restore('a');
    await library.rename('a', 'Bowl');
    expect((await library.list())[0].document.name).toBe('Bowl');
  });

  it('keeps a small picture as long as its document is there', async () => {
    await library.add(stored('a', 1));
    const drawn = new Blob(['drawn']);
    await library.setThumbnail('a', drawn);
    await library.setThumbnail('b', drawn);
    expect(await library.thumbnail('a')).not.toBeNull();
    expect(await library.thumbnail('b')).toBeNull();
    await library.remove('a');
    await library.setThumbnail('a', drawn);
    expect(await library.thumbnail('a')).not.toBeNull();
    await library.end(['a']);
    // What was under way for it comes too late.
    await library.setThumbnail('a', drawn);
    expect(await library.thumbnail('a')).toBeNull();
  });

  it('ends what was deleted before a time, and nothing else', async () => {
    for (const id of ['a', 'b', 'c']) await library.add(stored(id, 1));
    await library.remove('a');
    const between = Date.now() + 5;
    await new Promise((resolve) => setTimeout(resolve, 10));
    await library.remove('b');
    await library.end(['a', 'b', 'c'], between);
    expect((await library.deleted()).map((d) => d.id)).toEqual(['b']);
    expect((await library.list()).map((d) => d.id)).toEqual(['c']);
    await expect(library.restore('a')).rejects.toThrow(LostDocumentError);
  });

  it('does not write over a document that is deleted, gone or newer', async () => {
    await library.add(stored('a', 1));
    const first = (await library.load('a'))!.stored;
    const named = (name: string): StoredDocument => ({ ...first, document: { ...document, name } });
    const second = await library.save(named('Second'), [], 0);
    await expect(library.save(named('Third'), [], 0)).rejects.toMatchObject({ reason: 'newer' });
    await library.remove('a');
    await expect(library.save(second, [], 0)).rejects.toMatchObject({ reason: 'deleted' });
    await library.end(['a']);
    await expect(library.save(second, [], 0)).rejects.toMatchObject({ reason: 'gone' });
    expect(await library.list()).toEqual([]);
  });

  it('puts a document back whole that was ended, with its history and its file', async () => {
    const entry = { label: 'one', patches: [], inverse: [] };
    await library.keepFile('h', new Blob([Uint8Array.of(5)]));
    await library.add(stored('a', 1, 'h'), [entry]);
    const { stored: first, history } = (await library.load('a'))!;
    await library.end(['a']);
    await library.sweep();
    await library.putBack(first, history, new Map([['h', new Blob([Uint8Array.of(5)])]]));
    expect((await library.load('a'))!.history).toEqual([entry]);
    expect(await read('h')).toEqual(Uint8Array.of(5));
  });

  it('survives a database that is closed, and one that is cleared', async () => {
    await library.add(stored('a', 1));
    const { stored: first } = (await library.load('a'))!;
    // Another tab clears it: this one lets go, and finds an empty one at its next call.
    await Library.remove(name);
    expect(await library.list()).toEqual([]);
    await expect(library.save(first, [], 0)).rejects.toMatchObject({ reason: 'gone' });
    await library.putBack(first, [], new Map());
    expect((await library.list()).map((d) => d.id)).toEqual(['a']);
  });

  it('says so where a newer version of it is open', async () => {
    await library.list();
    const newer = indexedDB.open(name, 99);
    await new Promise((resolve) => (newer.onsuccess = resolve));
    newer.result.close();
    await expect(library.list()).rejects.toThrow('A newer version of Kromba');
    await new Promise((resolve) => (indexedDB.deleteDatabase(name).onsuccess = resolve));
  });

  it('says plainly when the disk is full, and keeps what was saved', async () => {
    await library.add(stored('a', 1));
    const full = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    const failing = library.save({ ...stored('a', 2), document: { ...document, name: 'New' } }, [], 0);
    await expect(failing).rejects.toThrow(/is full\. The last change is not saved.*Export/);
    full.mockRestore();
    expect((await library.load('a'))?.stored.document.name).toBe('Jug');
  });

  it('keeps looks in their order, and the files of their tables', async () => {
    const look = parseLook({ kromba: 1, kind: 'look', name: 'Blue', steps: [] });
    const one = { id: 'l1', look, files: { t1: 'table' }, createdAt: 2 };
    const two = { id: 'l2', look: { ...look, name: 'Red' }, files: {}, createdAt: 1 };
    await library.keepFile('table', new Blob(['rows']));
    await library.keepFile('lost', new Blob(['rows']));
    await library.keepLooks([one, two]);
    expect((await library.looks()).map((l) => l.look.name)).toEqual(['Red', 'Blue']);
    await library.sweep();
    expect(await read('table')).not.toBeNull();
    expect(await read('lost')).toBeNull();
    await library.keepLooks([{ ...one, look: { ...look, name: 'Sea' } }]);
    await library.removeLooks(['l2']);
    expect((await library.looks()).map((l) => l.look.name)).toEqual(['Sea']);
    await library.removeLooks(['l1']);
    await library.sweep();
    expect(await read('table')).toBeNull();
  });

  it('that an earlier version wrote keeps its documents, and takes looks', async () => {
    const earlier = await openDB('earlier', 1, {
      upgrade(db) {
        db.createObjectStore('documents', { keyPath: 'id' });
        db.createObjectStore('history', { keyPath: ['document', 'index'] });
        db.createObjectStore('files', { keyPath: 'hash' });
        db.createObjectStore('thumbnails');
      }
    });
    await earlier.put('documents', stored('a', 10));
    earlier.close();
    const now = await Library.open('earlier');
    expect((await now.list()).map((d) => d.id)).toEqual(['a']);
    expect(await now.looks()).toEqual([]);
  });
});
