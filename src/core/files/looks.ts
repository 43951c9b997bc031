import { readLook, type Look } from '../document';
import { shortened } from '../document/problem';
import { isBundle, listedEntries, unpackedEntry, zip } from './bundle';
import { freeFileName } from './file-names';
import { FileError } from './image';

/** A look with the files of its tables, by their ids. */
export interface LookBundle {
  readonly look: Look;
  readonly files: ReadonlyMap<string, Blob>;
}

const EXTENSION = '.look.json';
const MOST_LOOK = 2 ** 24;
const MOST_TABLE = 2 ** 28;
const MOST_LOOKS = 5000;
const START = 4;

const fileNameOf = (name: string): string => name.replace(/[\\/:*?"<>|]/g, '_');

/**
 * Looks as one file: a single one without tables as its JSON, others as a zip that holds each, with the files of its tables.
 * @throws FileError where a table's file is missing
 */
export async function packLooks(looks: readonly LookBundle[]): Promise<{ name: string; content: Blob }> {
  const [first] = looks;
  if (looks.length === 1 && (first.look.tables ?? []).length === 0) {
    const content = new Blob([JSON.stringify(first.look, null, 2)], { type: 'application/json' });
    return { name: fileNameOf(first.look.name) + EXTENSION, content };
  }
  const { BlobReader, BlobWriter, TextReader, ZipWriter } = await zip();
  const writer = new ZipWriter(new BlobWriter('application/zip'), { useWebWorkers: false });
  const taken = new Map<string, Blob | null>();
  for (const { look, files } of looks) {
    const tables = (look.tables ?? []).map((table) => {
      const file = files.get(table.id);
      if (!file) throw new FileError(`The file “${table.file}” of the look “${look.name}” is missing.`);
      const name = freeFileName(table.file, (tried) => taken.has(tried) && taken.get(tried) !== file);
      taken.set(name, file);
      return { ...table, file: name };
    });
    const name = freeFileName(fileNameOf(look.name), (tried) => taken.has(tried + EXTENSION)) + EXTENSION;
    taken.set(name, null);
    const written = tables.length > 0 ? { ...look, tables } : look;
    await writer.add(name, new TextReader(JSON.stringify(written, null, 2)));
  }
  for (const [name, file] of taken) if (file) await writer.add(name, new BlobReader(file));
  const name = looks.length === 1 ? fileNameOf(first.look.name) : 'looks';
  return { name: `${name}.zip`, content: await writer.close() };
}

/**
 * Reads a file that looks were packed in.
 * @throws FileError for what is none or is damaged; DocumentError, with the file's name, for a look that can't be read
 */
export async function unpackLooks(file: Blob): Promise<LookBundle[]> {
  if (!isBundle(new Uint8Array(await file.slice(0, START).arrayBuffer()))) {
    if (file.size > MOST_LOOK)
      throw new FileError(`The file is larger than any look (${MOST_LOOK / 2 ** 20} MB).`);
    const look = readLook(await file.text());
    const [table] = look.tables ?? [];
    if (table)
      throw new FileError(
        `The look “${shortened(look.name)}” needs its table “${shortened(table.file)}” beside it: take the zip that holds both.`
      );
    return [{ look, files: new Map() }];
  }
  const { BlobReader, ZipReader } = await zip();
  const reader = new ZipReader(new BlobReader(file), {
    useWebWorkers: false,
    checkSignature: true,
    checkOverlappingEntry: true
  });
  try {
    const entries = await listedEntries(reader);
    const found: LookBundle[] = [];
    const unpacked = new Map<string, Blob>();
    for (const [name, entry] of entries) {
      if (!name.endsWith('.json')) continue;
      if (found.length === MOST_LOOKS) throw new FileError(`The zip holds more than ${MOST_LOOKS} looks.`);
      const look = readLook(await (await unpackedEntry(entry, MOST_LOOK)).text());
      const files = new Map<string, Blob>();
      for (const table of look.tables ?? []) {
        const beside = entries.get(table.file);
        if (!beside)
          throw new FileError(
            `The table “${shortened(table.file)}” of the look “${shortened(look.name)}” is missing from the zip.`
          );
        const content = unpacked.get(table.file) ?? (await unpackedEntry(beside, MOST_TABLE));
        unpacked.set(table.file, content);
        files.set(table.id, content);
      }
      found.push({ look, files });
    }
    if (found.length === 0) throw new FileError('The zip holds no look: no file in it ends in .look.json.');
    return found;
  } finally {
    await reader.close().catch(() => undefined);
  }
}
