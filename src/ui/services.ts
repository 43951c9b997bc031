import { exportPicture, type ExportProgress, type ExportSettings } from '$engine/export';
import { browserPool } from '$engine/browser/pool';
import type { Step } from '$core/document';
import type { Frame } from '$core/raster/frame';
import { Library } from '$storage/library';

/** What lives as long as the page: the pool, the library, and the frames that are open. */
export const pool = browserPool();

let library: Promise<Library> | null = null;
/** @throws StorageError where the browser allows no storage */
export const openLibrary = (): Promise<Library> => (library ??= Library.open());

export interface OpenFrame {
  readonly frame: Frame;
  readonly notices: readonly string[];
  readonly bytes: number;
}

const opened = new Map<string, Promise<OpenFrame>>();

/**
 * Decodes a file once; later calls with the same content hash get the same frame.
 * @throws FileError; the file can be tried again after
 */
export function openFrame(hash: string, bytes: Uint8Array, signal?: AbortSignal): Promise<OpenFrame> {
  const known = opened.get(hash);
  if (known) return known;
  const opening = pool.runApart('open', { bytes }, { signal }).then(({ frame, notices }) => {
    pool.register(hash, frame);
    return { frame, notices, bytes: bytes.length };
  });
  opened.set(hash, opening);
  opening.catch(() => opened.delete(hash));
  return opening;
}

/** Lets go of all frames but those named, so that memory holds one document at a time. */
export function keepFrames(hashes: readonly string[]): void {
  for (const hash of opened.keys()) {
    if (hashes.includes(hash)) continue;
    opened.delete(hash);
    pool.forget(hash);
  }
}

export const exportFrame = (
  hash: string,
  frame: Frame,
  steps: readonly Step[],
  settings: ExportSettings,
  onProgress: (progress: ExportProgress) => void,
  signal: AbortSignal
): Promise<Uint8Array> => exportPicture(pool, frame, { frame: hash, steps }, settings, onProgress, signal);
