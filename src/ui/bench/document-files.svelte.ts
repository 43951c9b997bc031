import { Resolver, type KrombaDocument } from '$core/document';
import type { Table } from '$core/lut/table';
import type { Library, StoredDocument } from '$storage/library';
import { openTables } from '../add-document';

/** A document, and the content hash of each of its frames' and tables' files, by id. */
type WithFiles = Pick<StoredDocument, 'document' | 'files'>;

/** A table that is open, under its id. */
export interface HeldTable {
  readonly id: string;
  readonly hash: string;
  readonly table: Table;
}

/** A file that was taken and that the document does not name yet, under the id that it will have. */
export interface TakenFile {
  readonly id: string;
  readonly hash: string;
  readonly file: Blob;
  /** The file's name as it was given. */
  readonly given: string;
}

/** The files that belong to a document: what they are known by, and what is open of them. */
export class DocumentFiles {
  /** Content hash of each frame's and table's file, by id. */
  hashes = $state.raw<Readonly<Record<string, string>>>({});
  /** The document's tables that are open, by id. */
  tables = $state.raw<ReadonlyMap<string, Table>>(new Map());
  /** By their hash, so that they can be written anew where the storage has lost them. */
  readonly contents = new Map<string, Blob>();

  constructor(private readonly library: Library) {}

  /** A file as the library keeps it. @throws Error in words for a person where it is not there */
  async read(hash: string, { document, files }: WithFiles): Promise<Blob> {
    const kept = await this.library.file(hash);
    if (kept) return kept;
    const id = Object.keys(files).find((one) => files[one] === hash);
    const file = [...document.frames, ...document.tables].find((f) => f.id === id)?.file ?? 'of a frame';
    throw new Error(`The file “${file}” is missing from this browser’s storage.`);
  }

  /** Opens the tables of a document. @throws Error in words for a person; FileError */
  async openTables(of: WithFiles): Promise<void> {
    this.tables = await openTables(of, (hash) => this.read(hash, of));
  }

  /** Gets hold of the files; one that nobody reads costs nothing. */
  async holdContents(): Promise<void> {
    for (const hash of Object.values(this.hashes)) {
      if (this.contents.has(hash)) continue;
      const content = await this.library.file(hash).catch(() => null);
      if (content) this.contents.set(hash, content);
    }
  }

  /** Those of a document that are to be had, by id. */
  async of({ frames, tables }: KrombaDocument): Promise<Map<string, Blob>> {
    await this.holdContents();
    const files = new Map<string, Blob>();
    for (const { id } of [...frames, ...tables]) {
      const content = this.contents.get(this.hashes[id]);
      if (content) files.set(id, content);
    }
    return files;
  }

  /** Has files at hand that a change is about to name. @returns what lets go of them, if nothing else has changed */
  hold(held: readonly (Omit<TakenFile, 'given'> & Partial<HeldTable>)[]): () => void {
    const { hashes, tables } = this;
    if (held.length > 0) {
      this.hashes = this.hashesWith(held);
      this.tables = this.tablesWith(
        held.flatMap(({ id, hash, table }) => (table ? [{ id, hash, table }] : []))
      );
    }
    for (const { hash, file } of held) this.contents.set(hash, file);
    return () => Object.assign(this, { hashes, tables });
  }

  /** What puts beside the steps of a document what they refer to, with tables that only it has. */
  resolverOf(document: KrombaDocument, held: readonly HeldTable[] = []): Resolver {
    return new Resolver(document, this.hashesWith(held), this.tablesWith(held));
  }

  private hashesWith(held: readonly Pick<HeldTable, 'id' | 'hash'>[]): Readonly<Record<string, string>> {
    return { ...this.hashes, ...Object.fromEntries(held.map(({ id, hash }) => [id, hash])) };
  }

  private tablesWith(held: readonly HeldTable[]): ReadonlyMap<string, Table> {
    return new Map([...this.tables, ...held.map(({ id, table }) => [id, table] as const)]);
  }
}
