import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { RenderSettings } from '$engine/render-file';
import { guarded } from './guarded';
import type { StoredLook } from './library';

/** A folder of the person's own that a page may write to (File System Access). */
export type Folder = FileSystemDirectoryHandle;

/** What is done with many files. */
export interface ManyRun {
  readonly id: string;
  readonly look: Pick<StoredLook, 'look' | 'files'>;
  readonly settings: RenderSettings;
  /** Of the files that come, in their order. */
  readonly names: readonly string[];
  /** Of the files that are made, by the same numbers. */
  readonly outputs: readonly string[];
  /** Where they are written to; into a zip where there is none. */
  readonly folder: Folder | null;
  /** Files that are there already are written anew. */
  readonly overwrite: boolean;
}

/** What became of a file. */
export interface ManyOutcome {
  /** Bytes of what was made; null where that failed. */
  readonly bytes: number | null;
  /** Why it failed, in words for a person. */
  readonly problem?: string;
  readonly notices: readonly string[];
  readonly small: { readonly before: Blob; readonly after: Blob } | null;
}

interface Schema extends DBSchema {
  run: { key: 'run'; value: ManyRun };
  inputs: { key: number; value: Blob };
  outcomes: { key: number; value: ManyOutcome };
  results: { key: number; value: Blob };
}

const NAME = 'kromba-many';

/** The one work on many files that this browser knows of: so that it can be gone on with after a reload. */
export class ManyStore {
  private constructor(private readonly db: IDBPDatabase<Schema>) {}

  /** @throws StorageError */
  static open(name = NAME): Promise<ManyStore> {
    return guarded('Nothing can be kept over a reload.', async () => {
      const db = await openDB<Schema>(name, 1, {
        upgrade(fresh) {
          for (const store of ['run', 'inputs', 'outcomes', 'results'] as const)
            fresh.createObjectStore(store);
        },
        blocking: (_current, _blocked, event) => (event.target as IDBDatabase).close()
      });
      return new ManyStore(db);
    });
  }

  close(): void {
    this.db.close();
  }

  /** @returns with what became of each file that is done with; null where there is no work */
  async load(): Promise<{ run: ManyRun; outcomes: ReadonlyMap<number, ManyOutcome> } | null> {
    const transaction = this.db.transaction(['run', 'outcomes']);
    const outcomes = transaction.objectStore('outcomes');
    const [run, keys, values] = await Promise.all([
      transaction.objectStore('run').get('run'),
      outcomes.getAllKeys(),
      outcomes.getAll()
    ]);
    return run ? { run, outcomes: new Map(keys.map((key, i) => [key, values[i]])) } : null;
  }

  /** Takes the place of what was there. @throws StorageError, or what `signal` says; then there is none */
  async begin(run: ManyRun, inputs: readonly Blob[], signal?: AbortSignal): Promise<void> {
    await this.clear();
    try {
      await guarded('The files can’t be kept over a reload.', async () => {
        // One by one, so that what is copied need not lie in memory.
        for (const [n, input] of inputs.entries()) {
          if (signal?.aborted) return;
          await this.db.put('inputs', input, n);
        }
        await this.db.put('run', run, 'run');
      });
      signal?.throwIfAborted();
    } catch (error) {
      await this.clear().catch(() => undefined);
      throw error;
    }
  }

  input = (n: number): Promise<Blob | undefined> => this.db.get('inputs', n);
  result = (n: number): Promise<Blob | undefined> => this.db.get('results', n);

  /** Keeps what became of a file, and what was made of it where that goes into a zip. @throws StorageError */
  done(n: number, outcome: ManyOutcome, result: Blob | null): Promise<void> {
    return guarded('What was made of this file is not kept.', async () => {
      const transaction = this.db.transaction(['outcomes', 'results'], 'readwrite');
      transaction.done.catch(() => undefined);
      await Promise.all([
        transaction.objectStore('outcomes').put(outcome, n),
        result
          ? transaction.objectStore('results').put(result, n)
          : transaction.objectStore('results').delete(n)
      ]);
      await transaction.done;
    });
  }

  /** Forgets what became of some files. */
  async undone(numbers: readonly number[]): Promise<void> {
    const transaction = this.db.transaction('outcomes', 'readwrite');
    await Promise.all([...numbers.map((n) => transaction.store.delete(n)), transaction.done]);
  }

  async clear(): Promise<void> {
    const stores = ['run', 'inputs', 'outcomes', 'results'] as const;
    const transaction = this.db.transaction(stores, 'readwrite');
    await Promise.all([...stores.map((store) => transaction.objectStore(store).clear()), transaction.done]);
  }
}
