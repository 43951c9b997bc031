import { deleteDB, openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { KrombaDocument } from '$core/document';
import type { HistoryEntry } from '$core/document/history';

/** A document as it lies in the library. */
export interface StoredDocument {
  readonly id: string;
  readonly document: KrombaDocument;
  /** Content hash of each frame's file, by frame id. */
  readonly files: Readonly<Record<string, string>>;
  readonly createdAt: number;
  readonly modifiedAt: number;
  /** How many entries of the history are done; those after it can be redone. */
  readonly position: number;
  /** Which picture and step were selected. */
  readonly selection: { readonly picture: string; readonly step: string | null } | null;
  readonly deletedAt: number | null;
}

interface Schema extends DBSchema {
  documents: { key: string; value: StoredDocument };
  history: { key: [string, number]; value: HistoryEntry & { document: string; index: number } };
  files: { key: string; value: { hash: string; bytes: Blob } };
  thumbnails: { key: string; value: Blob };
}

/** Something that the browser's storage refused; the message says what was kept and what to do. */
export class StorageError extends Error {
  override readonly name = 'StorageError';
}

const VERSION = 1;
const NAME = 'kromba';

const inHistory = (id: string, from = 0): IDBKeyRange => IDBKeyRange.bound([id, from], [id, Infinity]);

/** The documents in this browser. What was saved stays whatever happens to a later save: each is one transaction. */
export class Library {
  private constructor(private readonly db: IDBPDatabase<Schema>) {}

  /** @throws StorageError where the browser allows no storage */
  static async open(name = NAME): Promise<Library> {
    try {
      const db = await openDB<Schema>(name, VERSION, {
        upgrade(db) {
          db.createObjectStore('documents', { keyPath: 'id' });
          db.createObjectStore('history', { keyPath: ['document', 'index'] });
          db.createObjectStore('files', { keyPath: 'hash' });
          db.createObjectStore('thumbnails');
        }
      });
      return new Library(db);
    } catch (error) {
      throw new StorageError(
        'This browser lets Kromba store nothing here (a private window, perhaps). Open it in an ordinary window.',
        { cause: error }
      );
    }
  }

  static remove(name = NAME): Promise<void> {
    return deleteDB(name);
  }

  close(): void {
    this.db.close();
  }

  /** Documents that are not deleted, newest change first. */
  async list(): Promise<StoredDocument[]> {
    const all = await this.db.getAll('documents');
    return all.filter((d) => d.deletedAt === null).sort((a, b) => b.modifiedAt - a.modifiedAt);
  }

  async load(id: string): Promise<{ stored: StoredDocument; history: HistoryEntry[] } | null> {
    const transaction = this.db.transaction(['documents', 'history']);
    const [stored, rows] = await Promise.all([
      transaction.objectStore('documents').get(id),
      transaction.objectStore('history').getAll(inHistory(id))
    ]);
    if (!stored || stored.deletedAt !== null) return null;
    return { stored, history: rows.map(({ label, patches, inverse }) => ({ label, patches, inverse })) };
  }

  /**
   * Writes the document together with its history from entry `from` on.
   * @throws StorageError; what was saved before is untouched then
   */
  save(stored: StoredDocument, history: readonly HistoryEntry[], from: number): Promise<void> {
    return this.guarded('The last change is not saved, but it is still on this page.', async () => {
      const transaction = this.db.transaction(['documents', 'history'], 'readwrite');
      const rows = transaction.objectStore('history');
      await Promise.all([
        transaction.objectStore('documents').put(stored),
        rows.delete(inHistory(stored.id, from)),
        ...history
          .slice(from)
          .map((entry, i) => rows.put({ ...entry, document: stored.id, index: from + i })),
        transaction.done
      ]);
    });
  }

  /** Keeps a file once under its content hash, whatever number of documents use it. @throws StorageError */
  async keepFile(hash: string, file: Blob): Promise<void> {
    await this.guarded('The picture was not added; everything saved before is untouched.', async () => {
      if (!(await this.db.getKey('files', hash))) await this.db.put('files', { hash, bytes: file });
    });
  }

  /** Lets go of a file that no document uses. */
  async dropFile(hash: string): Promise<void> {
    const all = await this.db.getAll('documents');
    if (!all.some((d) => Object.values(d.files).includes(hash))) await this.db.delete('files', hash);
  }

  async file(hash: string): Promise<Blob | null> {
    return (await this.db.get('files', hash))?.bytes ?? null;
  }

  async rename(id: string, name: string): Promise<void> {
    const loaded = await this.load(id);
    if (!loaded) return;
    const { stored } = loaded;
    await this.put({ ...stored, document: { ...stored.document, name }, modifiedAt: Date.now() });
  }

  /** A copy with its history, named “… copy”. */
  async duplicate(id: string): Promise<StoredDocument | null> {
    const loaded = await this.load(id);
    if (!loaded) return null;
    const { stored, history } = loaded;
    const now = Date.now();
    const copy: StoredDocument = {
      ...stored,
      id: crypto.randomUUID(),
      document: { ...stored.document, name: `${stored.document.name} copy` },
      createdAt: now,
      modifiedAt: now
    };
    await this.save(copy, history, 0);
    const thumbnail = await this.thumbnail(id);
    if (thumbnail) await this.setThumbnail(copy.id, thumbnail);
    return copy;
  }

  /** Takes a document off the light table; `restore` brings it back until `purge` is called. */
  async remove(id: string): Promise<void> {
    await this.mark(id, Date.now());
  }

  async restore(id: string): Promise<void> {
    await this.mark(id, null);
  }

  private async mark(id: string, deletedAt: number | null): Promise<void> {
    const stored = await this.db.get('documents', id);
    if (stored) await this.put({ ...stored, deletedAt });
  }

  /** Ends documents deleted before `before`, and files that no document uses any more. */
  async purge(before: number): Promise<void> {
    const all = await this.db.getAll('documents');
    const ended = all.filter((d) => d.deletedAt !== null && d.deletedAt < before);
    const used = new Set(all.filter((d) => !ended.includes(d)).flatMap((d) => Object.values(d.files)));
    const transaction = this.db.transaction(['documents', 'history', 'files', 'thumbnails'], 'readwrite');
    for (const { id, files } of ended) {
      void transaction.objectStore('documents').delete(id);
      void transaction.objectStore('history').delete(inHistory(id));
      void transaction.objectStore('thumbnails').delete(id);
      for (const hash of Object.values(files)) {
        if (!used.has(hash)) void transaction.objectStore('files').delete(hash);
      }
    }
    await transaction.done;
  }

  async thumbnail(id: string): Promise<Blob | null> {
    return (await this.db.get('thumbnails', id)) ?? null;
  }

  /** @throws StorageError */
  setThumbnail(id: string, image: Blob): Promise<void> {
    return this.guarded('Only the small picture on the light table is missing.', async () => {
      await this.db.put('thumbnails', image, id);
    });
  }

  private put(stored: StoredDocument): Promise<void> {
    return this.guarded('Nothing was changed.', async () => {
      await this.db.put('documents', stored);
    });
  }

  private async guarded(kept: string, write: () => Promise<void>): Promise<void> {
    try {
      await write();
    } catch (error) {
      const full = (error as Error).name === 'QuotaExceededError';
      const what = full
        ? 'The space that the browser gives Kromba is full.'
        : 'The browser could not store this.';
      const todo = full
        ? 'Export documents that you no longer need and delete them here.'
        : 'Export the document to be safe.';
      throw new StorageError(`${what} ${kept} ${todo}`, { cause: error });
    }
  }
}
