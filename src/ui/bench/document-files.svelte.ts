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

/** A file that was taken for a frame, with the ids of the frame and of its picture. */
interface TakenFrame {
  readonly frame: string;
  readonly picture: string;
  readonly name: string;
  readonly file: string;
  readonly hash: string;
  readonly encoding: Encoding;
}

/** A file that was taken for a table; `known` where the document has it already. */
interface TakenTable {
  readonly id: string;
  readonly name: string;
  readonly file: string;
  readonly known: boolean;
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

  /** Has tables at hand that a change is about to name. */
  hold(held: readonly (HeldTable & { readonly file: Blob })[]): void {
    if (held.length === 0) return;
    this.hashes = this.hashesWith(held);
    this.tables = this.tablesWith(held);
    for (const { hash, file } of held) this.contents.set(hash, file);
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
   * Takes image files for frames of a document, the darkest first; frames of the sky stay as they were given.
   * @throws FileError or StorageError; none is taken then
   */
  async takeFrames(given: readonly NamedFile[], { frames }: KrombaDocument): Promise<TakenFrame[]> {
    const taken: (TakenFrame & {
      readonly light: number;
      readonly ofSky: boolean;
      readonly content: Blob;
    })[] = [];
    const names = new Set(frames.map((f) => f.file));
    for (const { name, file: content } of given) {
      const hash = await takeFile(this.library, content);
      const { frame } = await openFrame(hash, () => Promise.resolve(content));
      const file = ownFileName(name, names);
      names.add(file);
      taken.push({
        ...{ frame: newId('f'), picture: newId('p'), file, hash, content, encoding: frame.encoding },
        name: (frame.fits && takenOf(frame.fits, file).filter) || withoutExtension(file),
        light: brightness(frame),
        ofSky: frame.fits !== undefined
      });
    }
    if (!taken.every(({ ofSky }) => ofSky)) taken.sort((a, b) => a.light - b.light);
    this.hashes = this.hashesWith(taken.map(({ frame, hash }) => ({ id: frame, hash })));
    for (const { hash, content } of taken) this.contents.set(hash, content);
    return taken;
  }

  /** Takes a file for a table of a document, where it is not there yet. @throws FileError or StorageError */
  async takeTable({ name, file }: NamedFile, document: KrombaDocument): Promise<TakenTable> {
    const hash = await takeTable(this.library, file);
    const known = document.tables.find(({ id }) => this.hashes[id] === hash);
    if (known) return { ...known, known: true };
    const id = newId('t');
    const table = await openTable(hash, () => Promise.resolve(file));
    this.hold([{ id, hash, table, file }]);
    const own = ownFileName(name, new Set([...document.frames, ...document.tables].map((f) => f.file)));
    const title = table.title.trim() || withoutExtension(own);
    const called = freeName(document.tables, title.slice(0, LONGEST_NAME));
    return { id, name: called, file: own, known: false };
  }
}
