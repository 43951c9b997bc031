import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import { exportPicture, type ExportProgress, type ExportSettings, type ExportShape } from '$engine/export';
import { browserPool } from '$engine/browser/pool';
import type { Encoding } from '$core/colour';
import { readFrameKey, type PictureSource } from '$core/document';
import type { ReadChoices } from '$core/files';
import type { Table } from '$core/lut/table';
import type { Frame } from '$core/raster/frame';
import { Library } from '$storage/library';
import { Tabs } from '$storage/tabs';

/** What lives as long as the page: the pool, the library, and the frames that are open. */
export const pool = browserPool();

export const tabs = new Tabs();

let library: Promise<Library> | null = null;
/** @throws StorageError where the browser allows no storage */
export const openLibrary = (): Promise<Library> => (library ??= Library.open());

let left: Promise<void> = Promise.resolve();
const leaving = new Set<string>();

/** Tells that a document is being put away; who opens it again waits for it. */
export function leave(id: string, closing: Promise<void>): void {
  leaving.add(id);
  const closed = closing.finally(() => leaving.delete(id));
  left = Promise.all([left, closed]).then(() => undefined);
}

/** Ids of the documents that are being put away. */
export const beingLeft = (): readonly string[] => [...leaving];

/** Done when every document that was left is saved and its small picture drawn. */
export const whenLeft = (): Promise<void> => left;

export interface OpenFrame {
  readonly frame: Frame;
  readonly notices: readonly string[];
  /** Size of its file. */
  readonly bytes: number;
}

/** Behind what is looked at, before what is measured. */
const NAMING = 3;

const opened = new Map<string, Promise<OpenFrame>>();

/**
 * Decodes a file once; later calls with the same key get the same frame.
 * @param hash the frame's key: the content hash of its file, and what of it is read
 * @param file gives the file, and is asked only where it is needed
 * @throws FileError; the file can be tried again after
 */
export function openFrame(hash: string, file: () => Promise<Blob>, signal?: AbortSignal): Promise<OpenFrame> {
  return (
    opened.get(hash) ??
    remember(
      hash,
      file().then((content) => decode(content, signal, readFrameKey(hash).choices))
    )
  );
}

/**
 * Decodes, names and keeps a file that has just come in; gives its content hash. The page itself does not read it. Within
 * `tabs.adding`, so that nobody takes it away before a document names it.
 * @throws FileError or StorageError
 */
export async function takeFile(library: Library, file: Blob, signal?: AbortSignal): Promise<string> {
  const decoded = decode(file, signal);
  decoded.catch(() => undefined);
  const { hash } = await pool.run('name', { file }, { priority: NAMING, signal });
  const own = (): Promise<OpenFrame> => remember(hash, decoded);
  // Another's may be cancelled, which says nothing of this one.
  const opening = opened.get(hash)?.catch(own) ?? own();
  const results = await Promise.allSettled([opening, library.keepFile(hash, file)]);
  const failed = results.find((result) => result.status === 'rejected');
  if (failed) throw failed.reason;
  signal?.throwIfAborted();
  return hash;
}

const MOST_TABLES = 64;
const tables = new LRUCache<string, Promise<Table>>({ max: MOST_TABLES });

/**
 * Reads a table once; later calls with the same content hash get the same one.
 * @param file gives the file, and is asked only where it is needed
 * @throws FileError; the file can be tried again after
 */
export function openTable(hash: string, file: () => Promise<Blob>): Promise<Table> {
  const known = tables.get(hash);
  if (known) return known;
  const opening = file().then(async (content) => (await pool.runApart('table', { file: content })).table);
  tables.set(hash, opening);
  opening.catch(() => tables.delete(hash));
  return opening;
}

/** Reads, names and keeps a table's file that has just come in; within `tabs.adding`. @throws FileError or StorageError */
export async function takeTable(library: Library, file: Blob, signal?: AbortSignal): Promise<string> {
  const { hash } = await pool.run('name', { file }, { priority: NAMING, signal });
  await openTable(hash, () => Promise.resolve(file));
  signal?.throwIfAborted();
  await library.keepFile(hash, file);
  return hash;
}

/** So many pictures are decoded at a time, however many are asked for: each may need several times its own size. */
const AT_ONCE = 2;
const decoding = pLimit(AT_ONCE);

/**
 * Names and keeps a file that has just come in and that nobody looks at yet; gives its content hash and its small picture. It
 * is decoded in a worker that ends with that, so that nothing of it stays in memory.
 * @throws as `takeFile`
 */
export async function takeUnseen(
  library: Library,
  file: Blob,
  size: number,
  signal?: AbortSignal
): Promise<{ hash: string; encoding: Encoding; jpeg: Uint8Array }> {
  const found = await decoding(() => pool.runApart('preview', { file, size }, { signal }));
  await library.keepFile(found.hash, file);
  signal?.throwIfAborted();
  return found;
}

async function decode(file: Blob, signal?: AbortSignal, choices?: ReadChoices): Promise<OpenFrame> {
  const { frame, notices } = await decoding(() => pool.runApart('open', { file, choices }, { signal }));
  return { frame, notices, bytes: file.size };
}

function remember(hash: string, opening: Promise<OpenFrame>): Promise<OpenFrame> {
  const registered = opening.then((open) => {
    pool.register(hash, open.frame);
    return open;
  });
  opened.set(hash, registered);
  registered.catch(() => opened.delete(hash));
  return registered;
}

/** Lets go of all frames but those named, so that memory holds one document at a time. */
export function keepFrames(hashes: readonly string[]): void {
  for (const hash of opened.keys()) {
    if (hashes.includes(hash)) continue;
    opened.delete(hash);
    pool.forget(hash);
  }
}

export const exportFrom = (
  shape: ExportShape,
  source: PictureSource,
  settings: ExportSettings,
  onProgress: (progress: ExportProgress) => void,
  signal: AbortSignal
): Promise<Blob> => exportPicture(pool, shape, source, settings, onProgress, signal);
