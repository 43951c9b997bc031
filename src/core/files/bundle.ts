import type { Entry, FileEntry, ZipReader } from '@zip.js/zip.js';
import { readDocument, type KrombaDocument } from '../document';
import { shortened } from '../document/problem';
import { freeFileName } from './file-names';
import { FileError } from './image';
import { partOf } from './wasm';

export const zip = partOf('packs and unpacks zips', () => import('@zip.js/zip.js'));

/** A bundle is a zip that holds the document and the files of its frames and tables. */
const DOCUMENT_FILE = 'document.kromba.json';
const ZIP_SIGNATURE = [0x50, 0x4b];
const MOST_ENTRIES = 10_000;
const MOST_DOCUMENT = 2 ** 26;
/** A picture that was packed may become this large, or so many times as large as it lies in the zip. */
const MOST_UNPACKED = 2 ** 28;
const MOST_TIMES = 20;
/** What has been unpacked is handed to the browser in pieces of this size, so that it need not stay in memory. */
const PIECE = 2 ** 24;

export interface Bundle {
  readonly document: KrombaDocument;
  /** The file of each frame and of each table, by its id. */
  readonly files: ReadonlyMap<string, Blob>;
}

interface Named {
  readonly id: string;
  readonly name: string;
  readonly file: string;
}

/** Whether a file is a zip, by its first bytes. */
export const isBundle = (bytes: Uint8Array): boolean => ZIP_SIGNATURE.every((b, i) => bytes[i] === b);

/** The document with a file name of its own for each frame and table; those of the same file share one. */
function withOwnNames({ document, files }: Bundle): { document: KrombaDocument; byName: Map<string, Blob> } {
  const byName = new Map<string, Blob>();
  const named = <T extends Named>(what: string, list: readonly T[]): T[] =>
    list.map((one) => {
      const file = files.get(one.id);
      if (!file) throw new FileError(`The file “${one.file}” of the ${what} “${one.name}” is missing.`);
      const name = freeFileName(
        one.file,
        (tried) => tried.toLowerCase() === DOCUMENT_FILE || (byName.has(tried) && byName.get(tried) !== file)
      );
      byName.set(name, file);
      return name === one.file ? one : { ...one, file: name };
    });
  const { frames, tables } = document;
  return {
    document: { ...document, frames: named('frame', frames), tables: named('table', tables) },
    byName
  };
}

/**
 * Image files are packed already and are stored as they are.
 * @throws FileError where a frame's file is missing or can't be read
 */
export async function packBundle(bundle: Bundle): Promise<Blob> {
  const { document, byName } = withOwnNames(bundle);
  const { BlobReader, BlobWriter, TextReader, ZipWriter } = await zip();
  try {
    const writer = new ZipWriter(new BlobWriter('application/zip'), { useWebWorkers: false });
    await writer.add(DOCUMENT_FILE, new TextReader(JSON.stringify(document, null, 2)));
    for (const [name, file] of byName) await writer.add(name, new BlobReader(file), { level: 0 });
    return await writer.close();
  } catch (error) {
    throw new FileError(`The bundle can’t be packed: ${(error as Error).message}.`, { cause: error });
  }
}

/** A zip of files that are stored as they are. @throws FileError */
export async function zipped(files: ReadonlyMap<string, Blob>): Promise<Blob> {
  const { BlobReader, BlobWriter, ZipWriter } = await zip();
  try {
    const writer = new ZipWriter(new BlobWriter('application/zip'), { useWebWorkers: false });
    for (const [name, file] of files) await writer.add(name, new BlobReader(file), { level: 0 });
    return await writer.close();
  } catch (error) {
    throw new FileError(`The zip can’t be packed: ${(error as Error).message}.`, { cause: error });
  }
}

/**
 * Reads a bundle entry by entry: its document, and of the files only those that the document's frames and tables name.
 * @param most bytes that these may take together
 * @throws FileError for what is no bundle, is damaged, or lacks a frame's or table's file; DocumentError for a bad document
 */
export async function unpackBundle(file: Blob, most = Infinity): Promise<Bundle> {
  const { BlobReader, ZipReader } = await zip();
  const reader = new ZipReader(new BlobReader(file), {
    useWebWorkers: false,
    checkSignature: true,
    checkOverlappingEntry: true
  });
  try {
    const entries = await listedEntries(reader);
    const text = entries.get(DOCUMENT_FILE);
    if (!text) throw new FileError(`The zip holds no ${DOCUMENT_FILE}, so it is no Kromba document.`);
    const document = readDocument(await (await unpackedEntry(text, MOST_DOCUMENT)).text());
    const byName = new Map<string, Blob>();
    const files = new Map<string, Blob>();
    let left = most;
    const take = async (what: string, { id, name, file }: Named): Promise<void> => {
      const entry = entries.get(file);
      if (!entry)
        throw new FileError(
          `The file “${shortened(file)}” of the ${what} “${shortened(name)}” is missing from the bundle.`
        );
      const known = byName.get(file) ?? (await unpackedEntry(entry, mostOf(entry)));
      if (!byName.has(file)) left -= known.size;
      if (left < 0)
        throw new FileError(`The files of the bundle take more than ${Math.floor(most / 2 ** 20)} MB.`);
      byName.set(file, known);
      files.set(id, known);
    };
    for (const frame of document.frames) await take('frame', frame);
    for (const table of document.tables) await take('table', table);
    return { document, files };
  } finally {
    await reader.close().catch(() => undefined);
  }
}

const mostOf = ({ compressionMethod, compressedSize }: Entry): number =>
  compressionMethod === 0 ? compressedSize : Math.max(MOST_UNPACKED, MOST_TIMES * compressedSize);

const noZip = (cause?: unknown): FileError =>
  new FileError('The file is no complete zip. Export the document again, or copy it again.', { cause });

/** The files of a zip by their names. @throws FileError for what is no complete zip, or holds too many or one twice */
export async function listedEntries(reader: ZipReader<Blob>): Promise<Map<string, FileEntry>> {
  const entries = new Map<string, FileEntry>();
  try {
    for await (const entry of reader.getEntriesGenerator()) {
      if (entries.size >= MOST_ENTRIES) {
        throw new FileError(`The zip holds more than ${MOST_ENTRIES} files, so it is none of Kromba’s.`);
      }
      if (entry.directory) continue;
      const name = shortened(entry.filename);
      if (entries.has(entry.filename)) {
        throw new FileError(`The zip holds “${name}” twice. Export the document again.`);
      }
      entries.set(entry.filename, entry);
    }
  } catch (error) {
    throw error instanceof FileError ? error : noZip(error);
  }
  return entries;
}

/** What an entry holds, its check sum looked at; what goes on for longer than `most` bytes is not unpacked. */
export async function unpackedEntry(entry: FileEntry, most: number): Promise<Blob> {
  const name = shortened(entry.filename);
  const tooLarge = new FileError(
    `The file “${name}” in the bundle is over ${Math.round(most / 2 ** 20)} MB when it is unpacked, far more than it claims to need. Unpack the zip by other means and open the picture by itself.`
  );
  if (entry.encrypted) throw new FileError(`The file “${name}” in the bundle is encrypted. Export it anew.`);
  if (entry.uncompressedSize > most) throw tooLarge;
  const parts: Blob[] = [];
  let chunks: Uint8Array<ArrayBuffer>[] = [];
  let size = 0;
  let held = 0;
  const flush = (): void => {
    parts.push(new Blob(chunks));
    chunks = [];
    held = 0;
  };
  const writable = new WritableStream<Uint8Array<ArrayBuffer>>({
    write(chunk) {
      size += chunk.length;
      if (size > Math.min(most, entry.uncompressedSize)) throw tooLarge;
      chunks.push(chunk);
      held += chunk.length;
      if (held >= PIECE) flush();
    }
  });
  try {
    await entry.getData(writable, {
      useWebWorkers: false,
      checkSignature: true,
      checkOverlappingEntry: true
    });
  } catch (error) {
    if (size > Math.min(most, entry.uncompressedSize)) throw tooLarge;
    throw new FileError(
      `The file “${name}” in the bundle is damaged: it is not what was packed. Export the document again, or copy it again.`,
      { cause: error }
    );
  }
  if (size !== entry.uncompressedSize) throw noZip();
  flush();
  return new Blob(parts);
}
