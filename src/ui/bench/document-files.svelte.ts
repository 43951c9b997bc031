import { freeName, LONGEST_NAME, Resolver, type KrombaDocument } from '$core/document';
import type { Encoding } from '$core/colour';
import { takenOf } from '$core/files/fits/told';
import { ownFileName, withoutExtension } from '$core/files/file-names';
import type { Table } from '$core/lut/table';
import { brightness } from '$core/raster/frame';
import type { Library, StoredDocument } from '$storage/library';
import { openTables, type NamedFile } from '../add-document';
import { openFrame, openTable, takeFile, takeTable } from '../services';
import { newId } from './names';

/** A document, and the content hash of each of its frames' and tables' files, by id. */
type WithFiles = Pick<StoredDocument, 'document' | 'files'>;

/** A table that is open, under its id. */
interface HeldTable {
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

interface TakenFrame extends TakenFile {
  /** Of its picture. */
  readonly picture: string;
  readonly encoding: Encoding;
  /** What it is called, with its file's name in the document. */
  readonly title: (file: string) => string;
}

interface TakenTable extends TakenFile, HeldTable {}

/** What a file may be called that comes to those of a document. */
export const fileNameIn = (
  { frames, tables }: Pick<KrombaDocument, 'frames' | 'tables'>,
  given: string
): string => ownFileName(given, new Set([...frames, ...tables].map((f) => f.file)));

/** What a table and its file are called that come to those of a document: the table as its file says, where it does. */
export function tableNames(to: KrombaDocument, { given, table }: TakenTable): { name: string; file: string } {
  const file = fileNameIn(to, given);
  const title = table.title.trim() || withoutExtension(file);
  return { name: freeName(to.tables, title.slice(0, LONGEST_NAME)), file };
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

  /**
   * Takes image files for frames, the darkest first; frames of the sky stay as they were given.
   * @throws FileError or StorageError; none is taken then
   */
  async takeFrames(given: readonly NamedFile[]): Promise<TakenFrame[]> {
    const taken: { readonly taken: TakenFrame; readonly light: number; readonly ofSky: boolean }[] = [];
    for (const { name, file } of given) {
      const hash = await takeFile(this.library, file);
      const { frame } = await openFrame(hash, () => Promise.resolve(file));
      const { fits, encoding } = frame;
      const title = (own: string): string => (fits && takenOf(fits, own).filter) || withoutExtension(own);
      taken.push({
        taken: { id: newId('f'), picture: newId('p'), hash, file, given: name, encoding, title },
        light: brightness(frame),
        ofSky: fits !== undefined
      });
    }
    if (!taken.every(({ ofSky }) => ofSky)) taken.sort((a, b) => a.light - b.light);
    return taken.map((one) => one.taken);
  }

  /** Takes a file for a table. @throws FileError or StorageError */
  async takeTable({ name, file }: NamedFile): Promise<TakenTable> {
    const hash = await takeTable(this.library, file);
    const table = await openTable(hash, () => Promise.resolve(file));
    return { id: newId('t'), hash, file, given: name, table };
  }
}
