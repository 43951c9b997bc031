import { strFromU8, strToU8, unzip, zip, type Unzipped, type Zippable } from 'fflate';
import { readDocument, type KrombaDocument } from '../document';
import { FileError } from './image';

/** A bundle is a zip that holds the document and the files of its frames. */
const DOCUMENT_FILE = 'document.kromba.json';
const ZIP_SIGNATURE = [0x50, 0x4b];
const MOST_BYTES = 2 ** 32;

export interface Bundle {
  readonly document: KrombaDocument;
  /** Image files by the names that the document's frames give. */
  readonly files: ReadonlyMap<string, Uint8Array>;
}

export const isBundle = (bytes: Uint8Array): boolean => ZIP_SIGNATURE.every((b, i) => bytes[i] === b);

/** Image files are packed already and are stored as they are. */
export function packBundle({ document, files }: Bundle): Promise<Uint8Array> {
  const entries: Zippable = { [DOCUMENT_FILE]: strToU8(JSON.stringify(document, null, 2)) };
  for (const [name, bytes] of files) entries[name] = [new Uint8Array(bytes), { level: 0 }];
  return new Promise((resolve, reject) =>
    zip(entries, (error, bytes) =>
      error ? reject(new FileError(`The bundle can’t be packed: ${error.message}.`)) : resolve(bytes)
    )
  );
}

/** @throws FileError for what is no bundle or lacks a frame's file; DocumentError for a bad document */
export async function unpackBundle(bytes: Uint8Array): Promise<Bundle> {
  const entries = await unpack(bytes);
  const text = entries[DOCUMENT_FILE];
  if (!text) throw new FileError(`The zip holds no ${DOCUMENT_FILE}, so it is no Kromba document.`);
  const document = readDocument(strFromU8(text));
  const files = new Map<string, Uint8Array>();
  for (const { file, name } of document.frames) {
    if (!entries[file])
      throw new FileError(`The file “${file}” of the frame “${name}” is missing from the bundle.`);
    files.set(file, entries[file]);
  }
  return { document, files };
}

function unpack(bytes: Uint8Array): Promise<Unzipped> {
  let total = 0;
  const filter = ({ originalSize }: { originalSize: number }): boolean =>
    (total += originalSize) < MOST_BYTES;
  return new Promise((resolve, reject) =>
    unzip(bytes, { filter }, (error, entries) => {
      if (error) reject(new FileError('The file is no complete zip. Export the document again.'));
      else resolve(entries);
    })
  );
}
