import {
  deleteDB,
  openDB,
  type DBSchema,
  type IDBPDatabase,
  type IDBPTransaction,
  type StoreNames
} from 'idb';
import type { KrombaDocument, Look } from '$core/document';
import type { HistoryEntry } from '$core/document/history';

/** How pictures were looked at, by its parts: what each says is the bench's own. */
export interface Looking {
  /** The places in Out. */
  readonly places?: unknown;
  /** How dark pictures are lifted for the eye. */
  readonly lift?: unknown;
}

/** A document as it lies in the library. */
export interface StoredDocument {
  readonly id: string;
  readonly document: KrombaDocument;
  /** Content hash of each frame's and table's file, by id. */
  readonly files: Readonly<Record<string, string>>;
  readonly createdAt: number;
  readonly modifiedAt: number;
  /** How many entries of the history are done; those after it can be redone. */
  readonly position: number;
  /** Which picture and step were selected, and how they were looked at. */
  readonly selection: {
    readonly picture: string;
    readonly step: string | null;
    readonly looking?: Looking;
  } | null;
  readonly deletedAt: number | null;
  /** Counts the times it was written: who writes over something newer is refused. */
  readonly revision?: number;
}

export interface LoadedDocument {
  readonly stored: StoredDocument;
  readonly history: HistoryEntry[];
}

/** A look as it lies in the library. */
export interface StoredLook {
  readonly id: string;
  readonly look: Look;
  /** Content hash of each table's file, by the table's id. */
  readonly files: Readonly<Record<string, string>>;
  readonly createdAt: number;
}

interface Schema extends DBSchema {
  looks: { key: string; value: StoredLook };
  documents: { key: string; value: StoredDocument };
  history: { key: [string, number]; value: HistoryEntry & { document: string; index: number } };
  files: { key: string; value: { hash: string; bytes: Blob } };
  thumbnails: { key: string; value: Blob };
}
type Stores = StoreNames<Schema>;

/** Something that the browser's storage refused; the message says what was kept and what to do. */
export class StorageError extends Error {
  override readonly name = 'StorageError';
  /** @param full there is no room left */
  constructor(
    message: string,
    readonly full = false,
    options?: ErrorOptions
  ) {
    super(message, options);
  }
}

/** The document is not where it was: deleted, ended for good, or newer than who wants to write it. */
export class LostDocumentError extends Error {
  override readonly name = 'LostDocumentError';
  constructor(readonly reason: 'deleted' | 'gone' | 'newer') {
    super(
      {
        deleted: 'The document was deleted.',
        gone: 'The document is not in this browser’s storage any more.',
        newer: 'The document was changed in another tab.'
      }[reason]
    );
  }
}

const VERSION = 2;
const NAME = 'kromba';
const ALL: Stores[] = ['documents', 'history', 'files', 'thumbnails'];

const inHistory = (id: string, from = 0): IDBKeyRange => IDBKeyRange.bound([id, from], [id, Infinity]);
const wasClosed = (error: unknown): boolean =>
  ['InvalidStateError', 'AbortError'].includes((error as Error).name) ||
  /clos/i.test((error as Error).message);

/**
 * The documents in this browser. What was saved stays whatever happens to a later save: each is one transaction, and so is
 * whatever reads a document to change it. A connection that the browser closes is opened anew.
 */
export class Library {
  private opening: Promise<IDBPDatabase<Schema>> | null = null;

  private constructor(private readonly name: string) {}

  /** @throws StorageError where the browser allows no storage */
  static async open(name = NAME): Promise<Library> {
    const library = new Library(name);
    await library.connection();
    return library;
  }

  static remove(name = NAME): Promise<void> {
    return deleteDB(name);
  }

  close(): void {
    void this.opening?.then((db) => db.close());
    this.opening = null;
  }

  private connection(): Promise<IDBPDatabase<Schema>> {
    const forget = (): void => void (this.opening = null);
    this.opening ??= openDB<Schema>(this.name, VERSION, {
      upgrade(db, from) {
        if (from < 1) {
          db.createObjectStore('documents', { keyPath: 'id' });
          db.createObjectStore('history', { keyPath: ['document', 'index'] });
          db.createObjectStore('files', { keyPath: 'hash' });
          db.createObjectStore('thumbnails');
        }
        db.createObjectStore('looks', { keyPath: 'id' });
      },
      // Somebody else wants to clear or upgrade it: who does not let go makes them wait for ever.
      blocking: (_current, _blocked, event) => {
        forget();
        (event.target as IDBDatabase).close();
      },
      terminated: forget
    }).catch((error: Error) => {
      forget();
      throw new StorageError(
        error.name === 'VersionError'
          ? 'A newer version of Kromba was opened in this browser. Reload this page.'
          : 'This browser lets Kromba store nothing here (a private window, perhaps). Open it in an ordinary window.',
        false,
        { cause: error }
      );
    });
    return this.opening;
  }

  /** Does what `work` says with the connection; once more on a new one where the browser has closed it. */
  private async with<T>(work: (db: IDBPDatabase<Schema>) => Promise<T>): Promise<T> {
    const db = await this.connection();
    try {
      return await work(db);
    } catch (error) {
      if (!wasClosed(error)) throw error;
      if ((await this.opening) === db) this.opening = null;
      return work(await this.connection());
    }
  }

  /** One transaction for reading and writing; what `work` throws takes all of it back. */
  private write<S extends Stores, T>(
    stores: S[],
    kept: string,
    work: (transaction: IDBPTransaction<Schema, S[], 'readwrite'>) => Promise<T>
  ): Promise<T> {
    return this.guarded(kept, () =>
      this.with(async (db) => {
        const transaction = db.transaction(stores, 'readwrite');
        // Told by `work` or below; a rejection that nobody looks at is told in the console alone.
        transaction.done.catch(() => undefined);
        try {
          const result = await work(transaction);
          await transaction.done;
          return result;
        } catch (error) {
          try {
            transaction.abort();
          } catch {
            // It has ended by itself.
          }
          // Why it ended is told by the transaction; its requests say only that it did.
          const ended = await transaction.done.then(
            () => null,
            (why: Error) => why
          );
          throw ended?.name === 'QuotaExceededError' ? ended : error;
        }
      })
    );
  }

  private all = (): Promise<StoredDocument[]> => this.with((db) => db.getAll('documents'));

  /** Documents that are not deleted, newest change first. */
  async list(): Promise<StoredDocument[]> {
    const all = await this.all();
    return all.filter((d) => d.deletedAt === null).sort((a, b) => b.modifiedAt - a.modifiedAt);
  }

  /** Documents that are deleted and can still be put back, the last deleted first. */
  async deleted(): Promise<StoredDocument[]> {
    const all = await this.all();
    return all.filter((d) => d.deletedAt !== null).sort((a, b) => b.deletedAt! - a.deletedAt!);
  }

  /** @returns null for a document that is not there or is deleted */
  load(id: string): Promise<LoadedDocument | null> {
    return this.with(async (db) => {
      const transaction = db.transaction(['documents', 'history']);
      const [stored, rows] = await Promise.all([
        transaction.objectStore('documents').get(id),
        transaction.objectStore('history').getAll(inHistory(id))
      ]);
      if (!stored || stored.deletedAt !== null) return null;
      return { stored, history: rows.map(({ label, patches, inverse }) => ({ label, patches, inverse })) };
    });
  }

  /**
   * Writes a new document.
   * @throws StorageError; nothing was added then
   */
  async add(stored: StoredDocument, history: readonly HistoryEntry[] = []): Promise<void> {
    await this.write(['documents', 'history'], 'Nothing was added.', (transaction) =>
      putWhole(transaction, { ...stored, revision: 0 }, history, 0)
    );
  }

  /**
   * Writes the document over what it was made from, together with its history from entry `from` on.
   * @returns the document as it now lies there
   * @throws StorageError; LostDocumentError where it is deleted, gone or newer; what was saved before is untouched
   */
  save(stored: StoredDocument, history: readonly HistoryEntry[], from: number): Promise<StoredDocument> {
    const kept = 'The last change is not saved, but it is still on this page.';
    return this.write(['documents', 'history'], kept, async (transaction) => {
      const there = await transaction.objectStore('documents').get(stored.id);
      if (!there) throw new LostDocumentError('gone');
      if (there.deletedAt !== null) throw new LostDocumentError('deleted');
      if ((there.revision ?? 0) !== (stored.revision ?? 0)) throw new LostDocumentError('newer');
      const next = { ...stored, deletedAt: null, revision: (stored.revision ?? 0) + 1 };
      await putWhole(transaction, next, history, from);
      return next;
    });
  }

  /**
   * Writes a document whole, whether it is there, deleted or gone.
   * @param files its frames' files by hash, for those that are gone as well
   * @throws StorageError
   */
  putBack(
    stored: StoredDocument,
    history: readonly HistoryEntry[],
    files: ReadonlyMap<string, Blob>
  ): Promise<StoredDocument> {
    return this.write(['documents', 'history', 'files'], 'It is still on this page.', async (transaction) => {
      const there = await transaction.objectStore('documents').get(stored.id);
      const kept = transaction.objectStore('files');
      for (const hash of new Set(Object.values(stored.files))) {
        if (await kept.getKey(hash)) continue;
        const bytes = files.get(hash);
        if (bytes) await kept.put({ hash, bytes });
      }
      const next = { ...stored, deletedAt: null, revision: (there?.revision ?? stored.revision ?? 0) + 1 };
      await putWhole(transaction, next, history, 0);
      return next;
    });
  }

  /** Keeps a file once under its content hash, whatever number of documents use it. @throws StorageError */
  async keepFile(hash: string, bytes: Blob): Promise<void> {
    const kept = 'Everything saved before is untouched.';
    await this.write(['files'], kept, async (transaction) => {
      const files = transaction.objectStore('files');
      if (!(await files.getKey(hash))) await files.put({ hash, bytes });
    });
  }

  file(hash: string): Promise<Blob | null> {
    return this.with(async (db) => (await db.get('files', hash))?.bytes ?? null);
  }

  /** @throws StorageError; LostDocumentError */
  async rename(id: string, name: string): Promise<void> {
    await this.change(id, ({ document, ...stored }) => ({
      ...stored,
      document: { ...document, name },
      modifiedAt: Date.now()
    }));
  }

  /** Takes a document off the home page; `restore` brings it back until it is ended. @throws as `rename` */
  async remove(id: string): Promise<void> {
    await this.change(id, (stored) => ({ ...stored, deletedAt: Date.now() }));
  }

  /** @throws as `rename`; LostDocumentError where it was ended for good */
  async restore(id: string): Promise<void> {
    await this.change(id, (stored) => ({ ...stored, deletedAt: null }));
  }

  private async change(id: string, how: (stored: StoredDocument) => StoredDocument): Promise<void> {
    await this.write(['documents'], 'Nothing was changed.', async (transaction) => {
      const documents = transaction.objectStore('documents');
      const stored = await documents.get(id);
      if (!stored) throw new LostDocumentError('gone');
      await documents.put({ ...how(stored), revision: (stored.revision ?? 0) + 1 });
    });
  }

  /** A copy with its history, named “… copy”. @throws as `rename` */
  duplicate(id: string): Promise<StoredDocument> {
    return this.write(['documents', 'history', 'thumbnails'], 'Nothing was added.', async (transaction) => {
      const [stored, history, thumbnail] = await Promise.all([
        transaction.objectStore('documents').get(id),
        transaction.objectStore('history').getAll(inHistory(id)),
        transaction.objectStore('thumbnails').get(id)
      ]);
      if (!stored) throw new LostDocumentError('gone');
      const now = Date.now();
      const copy: StoredDocument = {
        ...stored,
        id: crypto.randomUUID(),
        document: { ...stored.document, name: `${stored.document.name.slice(0, 195)} copy` },
        createdAt: now,
        modifiedAt: now,
        deletedAt: null,
        revision: 0
      };
      await putWhole(transaction, copy, history, 0);
      if (thumbnail) await transaction.objectStore('thumbnails').put(thumbnail, copy.id);
      return copy;
    });
  }

  /**
   * Ends documents for good, whether they are deleted or not, and needs no room for it.
   * @param before only those deleted before then
   */
  async end(ids: readonly string[], before = Infinity): Promise<void> {
    await this.write(ALL, 'Nothing was changed.', async (transaction) => {
      for (const id of ids) {
        const stored = await transaction.objectStore('documents').get(id);
        if (stored && before !== Infinity && !(stored.deletedAt !== null && stored.deletedAt < before))
          continue;
        await Promise.all([
          transaction.objectStore('documents').delete(id),
          transaction.objectStore('history').delete(inHistory(id)),
          transaction.objectStore('thumbnails').delete(id)
        ]);
      }
    });
  }

  /** All looks that were kept, the first kept first. */
  async looks(): Promise<StoredLook[]> {
    const all = await this.with((db) => db.getAll('looks'));
    return all.sort((a, b) => a.createdAt - b.createdAt);
  }

  /** Keeps looks, over those of the same ids. @throws StorageError; none was kept then */
  async keepLooks(looks: readonly StoredLook[]): Promise<void> {
    await this.write(['looks'], 'The look was not kept.', (transaction) =>
      Promise.all(looks.map((look) => transaction.objectStore('looks').put(look)))
    );
  }

  /** @throws StorageError */
  async removeLooks(ids: readonly string[]): Promise<void> {
    await this.write(['looks'], 'Nothing was changed.', (transaction) =>
      Promise.all(ids.map((id) => transaction.objectStore('looks').delete(id)))
    );
  }

  /** Lets go of files that no document and no look uses. Nobody may be adding one meanwhile. */
  async sweep(): Promise<void> {
    await this.write(['documents', 'looks', 'files'], 'Nothing was changed.', async (transaction) => {
      const documents = await transaction.objectStore('documents').getAll();
      const looks = await transaction.objectStore('looks').getAll();
      const used = new Set([...documents, ...looks].flatMap((d) => Object.values(d.files)));
      const files = transaction.objectStore('files');
      const kept = await files.getAllKeys();
      await Promise.all(kept.filter((hash) => !used.has(hash)).map((hash) => files.delete(hash)));
    });
  }

  thumbnail(id: string): Promise<Blob | null> {
    return this.with(async (db) => (await db.get('thumbnails', id)) ?? null);
  }

  /** Keeps a document's small picture, as long as the document is there. @throws StorageError */
  async setThumbnail(id: string, image: Blob): Promise<void> {
    const kept = 'Only the small picture on the home page is missing.';
    await this.write(['documents', 'thumbnails'], kept, async (transaction) => {
      if ((await transaction.objectStore('documents').getKey(id)) === undefined) return;
      await transaction.objectStore('thumbnails').put(image, id);
    });
  }

  private async guarded<T>(kept: string, write: () => Promise<T>): Promise<T> {
    try {
      return await write();
    } catch (error) {
      if (error instanceof LostDocumentError || error instanceof StorageError) throw error;
      const full = (error as Error).name === 'QuotaExceededError';
      const what = full
        ? 'The space that the browser gives Kromba is full.'
        : 'The browser could not store this.';
      const todo = full
        ? 'Export documents that you no longer need, and delete them for good on the home page.'
        : 'Export the document to be safe.';
      throw new StorageError(`${what} ${kept} ${todo}`, full, { cause: error });
    }
  }
}

async function putWhole<S extends Stores>(
  transaction: IDBPTransaction<Schema, S[], 'readwrite'>,
  stored: StoredDocument,
  history: readonly HistoryEntry[],
  from: number
): Promise<void> {
  const stores = transaction as unknown as IDBPTransaction<Schema, ('documents' | 'history')[], 'readwrite'>;
  const rows = stores.objectStore('history');
  await Promise.all([
    stores.objectStore('documents').put(stored),
    rows.delete(inHistory(stored.id, from)),
    ...history
      .slice(from)
      .map(({ label, patches, inverse }, i) =>
        rows.put({ label, patches, inverse, document: stored.id, index: from + i })
      )
  ]);
}
